import type { Services } from "./services";

/** The sector of every market by its symbol; a market without one stands under its kind. */
export async function sectorsOf({ markets }: Services): Promise<Record<string, string>> {
  return Object.fromEntries((await markets.list()).map(({ symbol, sector, kind }) => [symbol, sector === "" ? kind : sector]));
}
