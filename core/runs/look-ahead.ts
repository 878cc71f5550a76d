import { parseTimeframe, sliceBars, type Bars } from "#core/bars";
import type { Settings, Strategy } from "#core/documents";
import { simulate, type Simulation } from "#core/engine";
import { prepareBacktest, type RunProblem } from "./backtest";

/** What an audit found: how many cuts were compared over how many closes, and the first difference, if any. */
export interface LookAheadAudit {
  cuts: number;
  closes: number;
  difference: { cut: string; at: string; what: string } | null;
}

export type AuditOutcome = { audit: LookAheadAudit; problems: [] } | { audit: null; problems: RunProblem[] };

/**
 * Whether a strategy looks ahead: it runs on data that ends at many points, and up to each of them signals and equity must
 * be what they are on all the data. `bars` in the order of the settings' markets.
 */
export function auditLookAhead(strategy: Strategy, settings: Settings, bars: readonly Bars[], cuts = 24): AuditOutcome {
  const open = { ...settings, closeAtEnd: false };
  const prepared = prepareBacktest(strategy, open, bars);
  if (prepared.run === null) return { audit: null, problems: prepared.problems };
  const whole = simulate(prepared.run);
  const { clock, markets } = prepared.run;
  const length = clock.times.length;
  const timeframe = parseTimeframe(strategy.timeframe)!;
  const audit: LookAheadAudit = { cuts: 0, closes: 0, difference: null };
  let last = -1;
  for (let k = 1; k <= cuts && audit.difference === null; k++) {
    const count = Math.floor((length * k) / (cuts + 1));
    if (count < 1 || count === last) continue;
    last = count;
    const time = clock.times[count - 1];
    const end = Math.max(...markets.map((market) => market.calendar.endOf(time, timeframe)));
    const { run } = prepareBacktest(
      strategy,
      open,
      bars.map((column) => upTo(column, end)),
    );
    if (run === null) continue;
    const part = simulate(run);
    audit.cuts++;
    audit.closes += count;
    const found = firstDifference(whole, part, count);
    if (found !== null) audit.difference = { cut: new Date(end).toISOString(), ...found };
  }
  return { audit, problems: [] };
}

/** Bars that begin before a moment. */
function upTo(bars: Bars, end: number): Bars {
  let low = 0;
  let high = bars.length;
  while (low < high) {
    const middle = (low + high) >>> 1;
    if (bars.time[middle] < end) low = middle + 1;
    else high = middle;
  }
  return sliceBars(bars, 0, low);
}

function firstDifference(whole: Simulation, part: Simulation, count: number): { at: string; what: string } | null {
  const { times } = whole.run.clock;
  const iso = (time: number) => new Date(time).toISOString();
  const lastTime = times[count - 1];
  for (const [k, leg] of whole.legs.entries()) {
    const { time } = leg.market.bars;
    const [all, cut] = [leg.plan.signals, part.legs[k].plan.signals];
    for (let i = 0; ; i++) {
      const [x, y] = [all.rows[i], cut.rows[i]];
      const [xIn, yIn] = [x < time.length && time[x] <= lastTime, y < time.length && time[y] <= lastTime];
      if (!xIn && !yIn) break;
      if (x !== y || all.bits[i] !== cut.bits[i]) {
        const row = xIn && yIn ? Math.min(x, y) : xIn ? x : y;
        return { at: iso(time[row]), what: `the signals of ${leg.market.spec.symbol}` };
      }
    }
  }
  for (let t = 0; t < count; t++) if (!Object.is(whole.equity[t], part.equity[t])) return { at: iso(times[t]), what: "the equity" };
  return null;
}
