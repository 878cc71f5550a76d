import { joinBars, unpackBars, type Bars } from "#core/bars";

const loaded = new Map<string, Promise<Bars>>();
/** bars that are kept; what was asked for longest ago goes first */
const KEPT = 12;

async function unpacked(part: Uint8Array): Promise<Bars> {
  const stream = new Blob([part as Uint8Array<ArrayBuffer>]).stream().pipeThrough(new DecompressionStream("gzip"));
  return unpackBars(new Uint8Array(await new Response(stream).arrayBuffer()));
}

async function load(hash: string): Promise<Bars> {
  const response = await fetch(`/bars/${hash}`);
  if (!response.ok) throw new Error(`The bars could not be loaded (${response.status}).`);
  const bytes = new Uint8Array(await response.arrayBuffer());
  const view = new DataView(bytes.buffer);
  const parts: Promise<Bars>[] = [];
  for (let at = 0; at < bytes.length;) {
    const length = view.getUint32(at, true);
    parts.push(unpacked(bytes.subarray(at + 4, at + 4 + length)));
    at += 4 + length;
  }
  return joinBars(await Promise.all(parts));
}

/** Bars by their hash, from the browser's cache or the server; kept for whoever asks next. */
export function fetchBars(hash: string): Promise<Bars> {
  let known = loaded.get(hash);
  if (known === undefined) {
    known = load(hash);
    known.catch(() => loaded.delete(hash));
  } else loaded.delete(hash);
  loaded.set(hash, known);
  if (loaded.size > KEPT) loaded.delete(loaded.keys().next().value!);
  return known;
}
