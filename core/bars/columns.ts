import { sha256 } from "@noble/hashes/sha2.js";
import { bytesToHex } from "@noble/hashes/utils.js";
import { BAR_COLUMNS, emptyBars, type Bars } from "./bars";

const MAGIC = 0x31_42_43_4c; // "LCB1", little endian

/** Bars as one block of bytes: magic, row count, then each column as little-endian 64-bit floats in the order of BAR_COLUMNS. */
export function encodeBars(bars: Bars): Uint8Array {
  const bytes = new Uint8Array(16 + bars.length * 8 * BAR_COLUMNS.length);
  const view = new DataView(bytes.buffer);
  view.setUint32(0, MAGIC, true);
  view.setUint32(8, bars.length, true);
  let at = 16;
  for (const name of BAR_COLUMNS) {
    new Float64Array(bytes.buffer, at, bars.length).set(bars[name]);
    at += bars.length * 8;
  }
  return bytes;
}

/** Reads what `encodeBars` wrote; throws where the bytes are something else. The columns are views on a copy of the bytes. */
export function decodeBars(bytes: Uint8Array): Bars {
  const view = new DataView(bytes.buffer, bytes.byteOffset, bytes.byteLength);
  if (bytes.byteLength < 16 || view.getUint32(0, true) !== MAGIC) throw new Error("these bytes are not columns of bars");
  const length = view.getUint32(8, true);
  if (bytes.byteLength !== 16 + length * 8 * BAR_COLUMNS.length) throw new Error("the columns of bars are cut short");
  const copy = bytes.slice().buffer;
  const bars = emptyBars(0) as { -readonly [K in keyof Bars]: Bars[K] };
  bars.length = length;
  BAR_COLUMNS.forEach((name, i) => (bars[name] = new Float64Array(copy, 16 + i * length * 8, length)));
  return bars;
}

/** SHA-256 of the bars' columns, in hex: equal hashes mean equal bars to the last bit. */
export const hashBars = (bars: Bars): string => bytesToHex(sha256(encodeBars(bars)));
