// Two short sounds of our own, made by the browser from plain tones: a chat
// that arrives rises like steps, a message in a chat knocks twice.

let context: AudioContext | undefined;

function audio(): AudioContext | undefined {
  if (!context && "AudioContext" in window) context = new AudioContext();
  return context;
}

/** Lets the browser start sound: it waits for the first click or key. */
export function unlockSound(): void {
  const unlock = () => void audio()?.resume();
  addEventListener("pointerdown", unlock, { once: true });
  addEventListener("keydown", unlock, { once: true });
}

/** Reports whether the browser keeps sound back until somebody clicks. */
export function soundIsBlocked(): boolean {
  return context?.state === "suspended";
}

function tone(at: number, frequency: number, length: number, loudness: number): void {
  const a = audio();
  if (!a) return;
  const oscillator = a.createOscillator();
  const gain = a.createGain();
  const begin = a.currentTime + at;
  oscillator.type = "triangle";
  oscillator.frequency.value = frequency;
  gain.gain.setValueAtTime(0, begin);
  gain.gain.linearRampToValueAtTime(loudness, begin + 0.012);
  gain.gain.exponentialRampToValueAtTime(0.0001, begin + length);
  oscillator.connect(gain).connect(a.destination);
  oscillator.start(begin);
  oscillator.stop(begin + length);
}

/** Plays the sound of a chat that arrives. */
export function playArrival(): void {
  tone(0, 392, 0.35, 0.2);
  tone(0.13, 494, 0.35, 0.2);
  tone(0.26, 587, 0.5, 0.2);
}

/** Plays the sound of a message in a chat. */
export function playMessage(): void {
  tone(0, 330, 0.12, 0.16);
  tone(0.1, 330, 0.16, 0.12);
}
