/** Reports whether this browser can record. */
export function canRecord(): boolean {
  return "MediaRecorder" in window && "mediaDevices" in navigator && "getUserMedia" in navigator.mediaDevices;
}
