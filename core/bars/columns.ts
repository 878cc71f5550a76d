import { sha256 } from "@noble/hashes/sha2.js";
import { bytesToHex } from "@noble/hashes/utils.js";
import { BAR_COLUMNS, emptyBars, type Bars } from "./bars";
import { MINUTE } from "./timeframe";
import { ByteReader, ByteWriter } from "./varint";

const MAGIC = 0x31_42_43_4c; // "LCB1", little endian

/**
 * SHA-256 of the bars' columns, in hex: equal hashes mean equal bars to the last bit. What is hashed is a head of 16 bytes
 * (magic, number of rows), then each column as little-endian 64-bit floats in the order of BAR_COLUMNS.
 */
export function hashBars(bars: Bars): string {
  const hash = sha256.create();
  for (const piece of hashedPieces(bars)) hash.update(piece);
  return bytesToHex(hash.digest());
}

const known = new WeakMap<Bars, string>();

/** The hash of bars that nobody changes any more, found once for as long as they are in use. */
export function barsHash(bars: Bars): string {
  let hash = known.get(bars);
  if (hash === undefined) known.set(bars, (hash = hashBars(bars)));
  return hash;
}

/** What is hashed of bars, piece by piece, for whoever has a faster SHA-256 at hand. */
export function* hashedPieces(bars: Bars): Generator<Uint8Array> {
  const head = new DataView(new ArrayBuffer(16));
  head.setUint32(0, MAGIC, true);
  head.setUint32(8, bars.length, true);
  yield new Uint8Array(head.buffer);
  for (const name of BAR_COLUMNS) {
    const column = bars[name];
    yield new Uint8Array(column.buffer, column.byteOffset, column.byteLength);
  }
}

/** How a column is written down: as 64-bit floats, or as whole numbers of `unit` ÷ 10^`decimals` in a variable number of bytes. */
const FLOATS = 255;
const MOST_DECIMALS = 8;
/** whole numbers stay well inside what a float holds exactly, also when one is taken from another */
const LARGEST = 2 ** 50;

/** Whether a whole number ÷ power gives the value back to the last bit (and is no negative zero, which a whole number can't be). */
function exact(x: number, power: number): boolean {
  const whole = Math.round(x * power);
  return whole / power === x && Math.abs(whole) < LARGEST && !Object.is(whole, -0);
}

/** Decimals that all values can be written with and read back to the last bit; FLOATS where there are none. */
function decimalsOf(columns: readonly Float64Array[]): number {
  let decimals = 0;
  let power = 1;
  for (const column of columns)
    for (let i = 0; i < column.length; i++) {
      const x = column[i];
      while (!exact(x, power)) {
        if (++decimals > MOST_DECIMALS) return FLOATS;
        power = 10 ** decimals;
      }
    }
  // what was exact with fewer decimals is so with more nearly always, and has to be always
  return columns.every((column) => allExact(column, power)) ? decimals : FLOATS;
}

function allExact(column: Float64Array, power: number): boolean {
  for (let i = 0; i < column.length; i++) if (!exact(column[i], power)) return false;
  return true;
}

function greatestDivisor(a: number, b: number): number {
  while (b !== 0) [a, b] = [b, a % b];
  return a;
}

/**
 * The values × 10^decimals as whole numbers, divided by the largest number that divides them all: a tick of 0.25 makes 25
 * out of two decimals.
 */
function wholeNumbers(columns: readonly Float64Array[], decimals: number): { unit: number; whole: Float64Array[] } {
  const power = 10 ** decimals;
  let unit = 0;
  const whole = columns.map((column) => {
    const out = new Float64Array(column.length);
    for (let i = 0; i < column.length; i++) {
      const x = Math.round(column[i] * power);
      out[i] = x;
      if (unit !== 1 && (unit === 0 || x % unit !== 0)) unit = greatestDivisor(unit, Math.abs(x));
    }
    return out;
  });
  if (unit === 0) unit = 1;
  if (unit > 1) for (const column of whole) for (let i = 0; i < column.length; i++) column[i] /= unit;
  return { unit, whole };
}

function writeFloats(out: ByteWriter, column: Float64Array): void {
  out.bytes(new Uint8Array(column.buffer, column.byteOffset, column.byteLength));
}

/**
 * Bars as one small block of bytes, to be compressed further. Times are written as changes of the step from bar to bar,
 * prices as whole numbers of their common unit: the open against the close before, the close against the open, the
 * wicks against the body. Where a column can't be written so to the last bit, it is written as floats.
 */
export function packBars(bars: Bars): Uint8Array {
  const { length, time, open, high, low, close, volume } = bars;
  const out = new ByteWriter(32 + length * 8);
  out.u32(MAGIC + 1);
  out.u32(length);

  const timeUnit = time.every((x) => x % MINUTE === 0) ? MINUTE : 1;
  const whole = time.every((x) => Number.isInteger(x) && Math.abs(x) < LARGEST);
  out.byte(whole ? 0 : FLOATS);
  if (!whole) writeFloats(out, time);
  else {
    out.u32(timeUnit);
    let before = 0;
    let step = 0;
    for (let i = 0; i < length; i++) {
      const at = time[i] / timeUnit;
      out.signed(at - before - step);
      step = at - before;
      before = at;
    }
  }

  const prices = [open, high, low, close];
  const decimals = decimalsOf(prices);
  out.byte(decimals);
  if (decimals === FLOATS) for (const column of prices) writeFloats(out, column);
  else {
    const { unit, whole } = wholeNumbers(prices, decimals);
    const [o, h, l, c] = whole;
    out.f64(unit);
    for (let i = 0; i < length; i++) out.signed(o[i] - (i === 0 ? 0 : c[i - 1]));
    for (let i = 0; i < length; i++) out.signed(c[i] - o[i]);
    for (let i = 0; i < length; i++) out.signed(h[i] - Math.max(o[i], c[i]));
    for (let i = 0; i < length; i++) out.signed(Math.min(o[i], c[i]) - l[i]);
  }

  const volumeDecimals = decimalsOf([volume]);
  out.byte(volumeDecimals);
  if (volumeDecimals === FLOATS) writeFloats(out, volume);
  else for (let i = 0; i < length; i++) out.signed(Math.round(volume[i] * 10 ** volumeDecimals));
  return out.done();
}

/** Reads what `packBars` wrote; throws where the bytes are something else. */
export function unpackBars(bytes: Uint8Array): Bars {
  const from = new ByteReader(bytes);
  if (bytes.byteLength < 8 || from.u32() !== MAGIC + 1) throw new Error("these bytes are not columns of bars");
  const length = from.u32();
  const bars = emptyBars(length);
  const { time, open, high, low, close, volume } = bars;
  if (from.byte() === FLOATS) from.floats(time);
  else {
    const unit = from.u32();
    let before = 0;
    let step = 0;
    from.signed(time);
    for (let i = 0; i < length; i++) {
      step += time[i];
      before += step;
      time[i] = before * unit;
    }
  }
  const decimals = from.byte();
  if (decimals === FLOATS) for (const column of [open, high, low, close]) from.floats(column);
  else {
    const unit = from.f64();
    const power = 10 ** decimals;
    for (const column of [open, close, high, low]) from.signed(column);
    let before = 0;
    for (let i = 0; i < length; i++) {
      const o = open[i] + before;
      const c = o + close[i];
      before = c;
      // whole numbers first, the division last: only so the floats come out to the last bit
      open[i] = (o * unit) / power;
      close[i] = (c * unit) / power;
      high[i] = (((o > c ? o : c) + high[i]) * unit) / power;
      low[i] = (((o < c ? o : c) - low[i]) * unit) / power;
    }
  }
  const volumeDecimals = from.byte();
  if (volumeDecimals === FLOATS) from.floats(volume);
  else {
    const power = 10 ** volumeDecimals;
    from.signed(volume);
    if (power !== 1) for (let i = 0; i < length; i++) volume[i] /= power;
  }
  from.end();
  return bars;
}

/** Joins pieces of bars that follow each other in time. */
export function joinBars(parts: readonly Bars[]): Bars {
  if (parts.length === 1) return parts[0];
  const bars = emptyBars(parts.reduce((sum, part) => sum + part.length, 0));
  let at = 0;
  for (const part of parts) {
    for (const column of BAR_COLUMNS) bars[column].set(part[column], at);
    at += part.length;
  }
  return bars;
}
