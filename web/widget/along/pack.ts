/** How long one part is at the most, in characters. */
const partMost = 150_000;

/** Packs what is seen: JSON, gzip, base64. */
export async function pack(events: readonly unknown[]): Promise<string> {
  const stream = new Blob([JSON.stringify(events)]).stream().pipeThrough(new CompressionStream("gzip"));
  const bytes = new Uint8Array(await new Response(stream).arrayBuffer());
  let text = "";
  for (let i = 0; i < bytes.length; i += 0x8000)
    text += String.fromCharCode(...bytes.subarray(i, i + 0x8000));
  return btoa(text);
}

/** Cuts what was packed into parts that fit. */
export function parts(packed: string): string[] {
  const list: string[] = [];
  for (let i = 0; i < packed.length; i += partMost) list.push(packed.slice(i, i + partMost));
  return list;
}

/** Unpacks what pack made; more than most bytes are refused. */
export async function unpack(packed: string, most: number): Promise<unknown[]> {
  const bytes = Uint8Array.from(atob(packed), (c) => c.charCodeAt(0));
  const reader = new Blob([bytes]).stream().pipeThrough(new DecompressionStream("gzip")).getReader();
  const decoder = new TextDecoder();
  let text = "";
  let size = 0;
  for (;;) {
    const { done, value } = await reader.read();
    if (done) break;
    size += value.byteLength;
    if (size > most) {
      await reader.cancel();
      throw new Error("what was sent is too large");
    }
    text += decoder.decode(value, { stream: true });
  }
  const events: unknown = JSON.parse(text + decoder.decode());
  return Array.isArray(events) ? events : [];
}
