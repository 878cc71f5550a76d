import { readFileSync, readdirSync } from "node:fs";
import { fileURLToPath } from "node:url";
import { join } from "node:path";
import { readBarsCsv, type Bars } from "#core/bars";

/** The folder of cases with known results. */
export const FIXTURES = fileURLToPath(new URL("../../fixtures/", import.meta.url));

export const fixtureText = (path: string): string => readFileSync(join(FIXTURES, path), "utf8");
// Fixtures are data of many shapes; each test knows the one it reads.
// eslint-disable-next-line @typescript-eslint/no-explicit-any
export const fixtureJson = (path: string): any => JSON.parse(fixtureText(path));
export const fixtureFolders = (path: string): string[] => readdirSync(join(FIXTURES, path)).sort();

const cache = new Map<string, Bars>();
export function fixtureBars(path: string): Bars {
  let bars = cache.get(path);
  if (bars === undefined) {
    const read = readBarsCsv(fixtureText(path));
    if (read.fatal !== null) throw new Error(read.fatal);
    bars = read.bars;
    cache.set(path, bars);
  }
  return bars;
}

/** |a − b| ≤ tolerance · max(scale, |a|, |b|) */
export const near = (a: number, b: number, tolerance: number, scale = 1): boolean =>
  Math.abs(a - b) <= tolerance * Math.max(scale, Math.abs(a), Math.abs(b));
