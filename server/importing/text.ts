import { createReadStream } from "node:fs";
import { open } from "node:fs/promises";
import type { Readable } from "node:stream";
import { createGunzip } from "node:zlib";
import yauzl from "yauzl";

export type Packing = "plain" | "gzip" | "zip";

/** Something about a file that makes it unreadable; the message is a sentence for a trader. */
export class FileFault extends Error {}

/** How a file is packed, told by its first bytes. */
export async function packingOf(path: string): Promise<Packing> {
  const file = await open(path, "r");
  try {
    const head = Buffer.alloc(4);
    await file.read(head, 0, 4, 0);
    if (head[0] === 0x1f && head[1] === 0x8b) return "gzip";
    return head.readUInt32LE(0) === 0x04034b50 ? "zip" : "plain";
  } finally {
    await file.close();
  }
}

const openZip = (path: string): Promise<yauzl.ZipFile> =>
  new Promise((resolve, reject) =>
    yauzl.open(path, { lazyEntries: true, autoClose: false }, (error, zip) =>
      error ? reject(new FileFault(`the archive can't be read: ${error.message}`)) : resolve(zip),
    ),
  );

/** Goes through the entries of an archive until `visit` says that it has enough. */
async function walk(zip: yauzl.ZipFile, visit: (entry: yauzl.Entry) => boolean): Promise<void> {
  await new Promise<void>((resolve, reject) => {
    zip.on("entry", (entry: yauzl.Entry) => (visit(entry) ? resolve() : zip.readEntry()));
    zip.on("end", resolve);
    zip.on("error", (error: Error) => reject(new FileFault(`the archive can't be read: ${error.message}`)));
    zip.readEntry();
  });
}

const MOST_ENTRIES = 200;

/** Names and packed sizes of the files in an archive that may hold bars. */
export async function zipEntries(path: string): Promise<{ name: string; bytes: number }[]> {
  const zip = await openZip(path);
  const entries: { name: string; bytes: number }[] = [];
  try {
    await walk(zip, (entry) => {
      const hidden = entry.fileName.endsWith("/") || /(^|\/)(\.|__MACOSX)/.test(entry.fileName);
      if (!hidden && /\.(csv|txt|tsv)$/i.test(entry.fileName)) entries.push({ name: entry.fileName, bytes: entry.compressedSize });
      return entries.length >= MOST_ENTRIES;
    });
  } finally {
    zip.close();
  }
  return entries;
}

async function zipStream(path: string, name: string): Promise<{ stream: Readable; close: () => void }> {
  const zip = await openZip(path);
  let found: yauzl.Entry | null = null;
  await walk(zip, (entry) => {
    if (entry.fileName === name) found = entry;
    return found !== null;
  });
  if (found === null) throw new FileFault(`the archive holds no ${name}`);
  const stream = await new Promise<Readable>((resolve, reject) =>
    zip.openReadStream(found!, (error, opened) => (error ? reject(new FileFault(error.message)) : resolve(opened))),
  );
  return { stream, close: () => zip.close() };
}

/** The encoding that a byte order mark names; UTF-8 without one. */
function encodingOf(head: Uint8Array): string {
  if (head[0] === 0xff && head[1] === 0xfe) return "utf-16le";
  if (head[0] === 0xfe && head[1] === 0xff) return "utf-16be";
  return "utf-8";
}

/** Unpacked bytes that are read of one file at most: what unpacks to more is no file of bars but a trap. */
export const unpackedLimit = (): number => Number(process.env.CANYON_UNPACKED_LIMIT ?? 4 * 1024 ** 3);

/**
 * The text of a file, piece by piece, unpacked and decoded. `read` hears how many packed bytes were taken. Throws a
 * FileFault where the file is broken or unpacks beyond the limit.
 */
export async function* textOf(
  path: string,
  packing: Packing,
  entry: string | null,
  read: (bytes: number) => void = () => {},
  limit = unpackedLimit(),
): AsyncGenerator<string> {
  let source: Readable;
  let close = () => {};
  let packed = 0;
  const count = (chunk: Buffer) => read((packed += chunk.length));
  if (packing === "zip") {
    ({ stream: source, close } = await zipStream(path, entry ?? ""));
    source.on("data", count);
    source.pause();
  } else {
    const file = createReadStream(path, { highWaterMark: 256 * 1024 });
    if (packing === "gzip") {
      const unzip = createGunzip();
      file.on("data", (chunk) => count(chunk as Buffer));
      file.on("error", (error) => unzip.destroy(error));
      file.pipe(unzip);
      close = () => file.destroy();
      source = unzip;
    } else {
      source = file;
      file.on("data", (chunk) => count(chunk as Buffer));
      file.pause();
    }
  }
  let decoder: TextDecoder | null = null;
  let unpacked = 0;
  try {
    for await (const chunk of source as AsyncIterable<Buffer>) {
      unpacked += chunk.length;
      if (unpacked > limit)
        throw new FileFault(`the file unpacks to more than ${Math.round(limit / 1024 ** 2).toLocaleString("en")} MB; nothing was read`);
      decoder ??= new TextDecoder(encodingOf(chunk));
      const text = decoder.decode(chunk, { stream: true });
      if (text !== "") yield text;
    }
    const rest = decoder?.decode() ?? "";
    if (rest !== "") yield rest;
  } catch (error) {
    if (error instanceof FileFault) throw error;
    throw new FileFault(`the file is broken: ${error instanceof Error ? error.message : String(error)}`);
  } finally {
    source.destroy();
    close();
  }
}

/** The beginning of a file's text, and whether more follows. */
export async function headOf(
  path: string,
  packing: Packing,
  entry: string | null,
  most = 128 * 1024,
): Promise<{ text: string; torn: boolean }> {
  let text = "";
  for await (const piece of textOf(path, packing, entry)) {
    text += piece;
    if (text.length > most) return { text: text.slice(0, most), torn: true };
  }
  return { text, torn: false };
}
