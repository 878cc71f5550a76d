import { eq } from "drizzle-orm";
import { randomUUID } from "node:crypto";
import { createWriteStream } from "node:fs";
import { mkdir, readdir, rename, rm, stat } from "node:fs/promises";
import { basename, join } from "node:path";
import type { Readable } from "node:stream";
import { pipeline } from "node:stream/promises";
import { Transform } from "node:stream";
import type { Database } from "../db/open";
import { uploads } from "../db/schema";
import { refuse } from "../problem";
import { FileFault, packingOf, zipEntries, type Packing } from "./text";

export interface Upload {
  id: number;
  name: string;
  file: string;
  entry: string | null;
  packing: Packing;
  bytes: number;
}

/** Bytes that one file may have, as it is handed in. */
export const uploadLimit = (): number => Number(process.env.CANYON_UPLOAD_LIMIT ?? 1024 ** 3);

const megabytes = (bytes: number): string => `${Math.round(bytes / 1024 ** 2).toLocaleString("en")} MB`;

/** Files that were handed in, kept beside the database until they are taken or dropped. */
export class Uploads {
  constructor(
    private readonly db: Database,
    private readonly folder: string,
  ) {}

  private path(file: string): string {
    return join(this.folder, "uploads", file);
  }

  /**
   * Takes a file in as it streams; an archive becomes one upload for each file of bars in it. Refused at once where the
   * announced length is above the limit, and as soon as the bytes are.
   */
  async receive(name: string, body: Readable, announced: number | null): Promise<Upload[]> {
    const limit = uploadLimit();
    const tooLarge = `${name} is larger than ${megabytes(limit)}, the most that is taken in (CANYON_UPLOAD_LIMIT)`;
    if (announced !== null && announced > limit) return refuse("file", tooLarge, 413);
    await mkdir(join(this.folder, "uploads"), { recursive: true });
    const file = randomUUID();
    const part = this.path(`${file}.part`);
    let bytes = 0;
    const guard = new Transform({
      transform(chunk: Buffer, _encoding, done) {
        bytes += chunk.length;
        done(bytes > limit ? new FileFault(tooLarge) : null, chunk);
      },
    });
    try {
      await pipeline(body, guard, createWriteStream(part));
    } catch (error) {
      await rm(part, { force: true });
      if (error instanceof FileFault) return refuse("file", error.message, 413);
      throw error;
    }
    if (bytes === 0) {
      await rm(part, { force: true });
      return refuse("file", `${name} is empty`);
    }
    await rename(part, this.path(file));
    return this.register(basename(name), file);
  }

  /** Registers a file that lies in the uploads folder already. */
  private async register(name: string, file: string): Promise<Upload[]> {
    const path = this.path(file);
    const packing = await packingOf(path);
    const createdAt = Date.now();
    try {
      const found =
        packing === "zip"
          ? (await zipEntries(path)).map((entry) => ({ name: basename(entry.name), entry: entry.name, bytes: entry.bytes }))
          : [{ name, entry: null, bytes: (await stat(path)).size }];
      if (found.length === 0) throw new FileFault(`${name} holds no file that ends in .csv, .txt or .tsv`);
      const rows = await this.db
        .insert(uploads)
        .values(found.map((one) => ({ ...one, file, packing, createdAt })))
        .returning();
      return rows as Upload[];
    } catch (error) {
      await rm(path, { force: true });
      if (error instanceof FileFault) return refuse("file", error.message);
      throw error;
    }
  }

  async get(id: number): Promise<Upload> {
    const [row] = await this.db.select().from(uploads).where(eq(uploads.id, id));
    return (row as Upload | undefined) ?? refuse("file", "this file is not there any more; hand it in again", 404);
  }

  pathOf(upload: Upload): string {
    return this.path(upload.file);
  }

  /** Deletes an upload; the file itself goes with the last upload that speaks of it. */
  async drop(id: number): Promise<void> {
    const [row] = await this.db.delete(uploads).where(eq(uploads.id, id)).returning();
    if (row === undefined) return;
    const others = await this.db.select({ id: uploads.id }).from(uploads).where(eq(uploads.file, row.file));
    if (others.length === 0) await rm(this.path(row.file), { force: true });
  }

  /** Clears away what a crash left half handed in. */
  async tidy(): Promise<void> {
    const folder = join(this.folder, "uploads");
    const files = await readdir(folder).catch(() => [] as string[]);
    for (const file of files) if (file.endsWith(".part")) await rm(join(folder, file), { force: true });
  }
}
