// Short sounds of our own, made by the browser from plain tones.

/** One tone: when it begins (s), its pitch (Hz), how long it rings (s), how loud (0 to 1), and its wave. */
type Tone = [at: number, pitch: number, length: number, loudness: number, wave?: OscillatorType];

/** The sounds of a chat that arrives, by name. */
export const arrivals: Record<string, { tones: Tone[] }> = {
  steps: {
    tones: [
      [0, 392, 0.35, 0.2, "triangle"],
      [0.13, 494, 0.35, 0.2, "triangle"],
      [0.26, 587, 0.5, 0.2, "triangle"],
    ],
  },
  bell: {
    tones: [
      [0, 660, 0.9, 0.16],
      [0, 1320, 0.4, 0.05],
      [0.34, 528, 1.1, 0.16],
      [0.34, 1056, 0.5, 0.05],
    ],
  },
  wood: {
    tones: [
      [0, 740, 0.09, 0.3, "triangle"],
      [0.14, 740, 0.09, 0.3, "triangle"],
      [0.28, 988, 0.14, 0.3, "triangle"],
    ],
  },
  ferry: {
    tones: [
      [0, 110, 0.9, 0.22, "sawtooth"],
      [0, 165, 0.9, 0.1, "sawtooth"],
    ],
  },
};

/** The sounds of words in a chat, by name. */
export const wordSounds: Record<string, { tones: Tone[] }> = {
  knock: {
    tones: [
      [0, 330, 0.12, 0.16, "triangle"],
      [0.1, 330, 0.16, 0.12, "triangle"],
    ],
  },
  drop: {
    tones: [
      [0, 880, 0.1, 0.12],
      [0.05, 1175, 0.16, 0.1],
    ],
  },
  tick: { tones: [[0, 1480, 0.05, 0.16, "triangle"]] },
};

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

/** Plays tones at a volume from 0 to 100. */
export function play(tones: Tone[], volume: number): void {
  const a = audio();
  if (!a || volume <= 0) return;
  for (const [at, pitch, length, loudness, wave] of tones) {
    const oscillator = a.createOscillator();
    const gain = a.createGain();
    const begin = a.currentTime + at;
    oscillator.type = wave ?? "sine";
    oscillator.frequency.value = pitch;
    gain.gain.setValueAtTime(0, begin);
    gain.gain.linearRampToValueAtTime((loudness * volume) / 100, begin + 0.012);
    gain.gain.exponentialRampToValueAtTime(0.0001, begin + length);
    oscillator.connect(gain).connect(a.destination);
    oscillator.start(begin);
    oscillator.stop(begin + length);
  }
}
