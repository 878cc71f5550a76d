import { firstAtOrAfter } from "#core/bars";
import type { Simulation } from "#core/engine";

/** How much two members are in the market together. */
export interface Overlap {
  /** share of each member's closes in a position at which the other is in one, too; by member and other, null for one that never was */
  time: (number | null)[][];
  /** symbols that both trade */
  markets: string[][][];
  /** closes at which both hold the same market on the same side, and on opposite sides */
  sameSide: number[][];
  oppositeSide: number[][];
  /** members in a position at each close, and open positions */
  members: Float64Array;
  positions: Float64Array;
}

/** Overlap of members in time and in markets, from the trades of a finished run; a position counts at the closes at which it is held. */
export function overlapOf({ run, legs, log }: Simulation): Overlap {
  const { clock, members, markets } = run;
  const n = clock.times.length;
  const side = legs.map(() => new Int8Array(n));
  const placeOf = (k: number, row: number) => firstAtOrAfter(clock.times, legs[k].market.bars.time[row]);
  for (let row = 0; row < log.count; row++) {
    const k = log.leg[row];
    const from = placeOf(k, log.entryRow[row]);
    const to = log.reason[row] === 0 ? n : placeOf(k, log.exitRow[row]);
    side[k].fill(log.side[row], from, to);
  }
  const held = members.map((_, m) => {
    const own = new Uint8Array(n);
    legs.forEach((leg, k) => {
      if (leg.memberIndex === m) side[k].forEach((x, t) => x !== 0 && (own[t] = 1));
    });
    return own;
  });
  const count = held.map((own) => own.reduce((sum, x) => sum + x, 0));
  const both = (a: Uint8Array, b: Uint8Array) => a.reduce((sum, x, t) => sum + (x & b[t]), 0);
  const closes = (i: number, j: number, product: 1 | -1) => {
    let found = 0;
    legs.forEach((a, p) =>
      legs.forEach((b, q) => {
        if (a.memberIndex !== i || b.memberIndex !== j || a.marketIndex !== b.marketIndex) return;
        for (let t = 0; t < n; t++) if (side[p][t] * side[q][t] === product) found++;
      }),
    );
    return found;
  };
  const each = <T>(make: (i: number, j: number) => T): T[][] => members.map((_, i) => members.map((__, j) => make(i, j)));
  return {
    time: each((i, j) => (count[i] === 0 ? null : both(held[i], held[j]) / count[i])),
    markets: each((i, j) => members[i].markets.filter((m) => members[j].markets.includes(m)).map((m) => markets[m].spec.symbol)),
    sameSide: each((i, j) => (i === j ? 0 : closes(i, j, 1))),
    oppositeSide: each((i, j) => (i === j ? 0 : closes(i, j, -1))),
    members: Float64Array.from({ length: n }, (_, t) => held.reduce((sum, own) => sum + own[t], 0)),
    positions: Float64Array.from({ length: n }, (_, t) => side.reduce((sum, own) => sum + Math.abs(own[t]), 0)),
  };
}
