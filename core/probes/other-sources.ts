import type { PreparedRun } from "#core/engine";
import { correlation } from "#core/metrics";
import { simulate } from "#core/engine";
import { probe, type ProbeInput } from "./kind";
import { bare, type StretchPart } from "./out-of-sample";
import { allReady, besideDrawing } from "./others";
import { barsOf, ownRun, partOf, readyRun, together } from "./runs";

interface Unit extends StretchPart {
  /** entry times with their side, of all trades */
  entries: string[];
}

/** Daily changes of two curves over the dates that both have. */
function changes(a: StretchPart, b: StretchPart): [number[], number[]] {
  const { values } = together([a.equity, b.equity]);
  const out: [number[], number[]] = [[], []];
  for (let k = 1; k < values[0].length; k++) {
    const four = [values[0][k], values[0][k - 1], values[1][k], values[1][k - 1]];
    if (four.some((x) => x === null)) continue;
    out[0].push(four[0]! - four[1]!);
    out[1].push(four[2]! - four[3]!);
  }
  return out;
}

export const otherSources = probe<ProbeInput, { runs: PreparedRun[]; names: string[] }, Unit>({
  kind: "otherSources",
  name: "Other sources",
  question: "Does it hold where somebody else recorded the same market?",
  caution: "It does not say that either source is right: both may have the same fault, and a close agreement says nothing about the edge.",
  needs: "sources",
  fields: [],
  criteria: [
    { key: "correlation", label: "Correlation of daily changes, the lowest", unit: "ratio", want: "least", initial: 0.95, from: -1, to: 1 },
    {
      key: "drift",
      label: "Difference of the net, the largest, of the version's own",
      unit: "percent",
      want: "most",
      initial: 25,
      from: 0,
      to: 10000,
    },
    { key: "sole", label: "Trades that only one of them has, the most", unit: "percent", want: "most", initial: 20, from: 0, to: 100 },
  ],
  unitName: "runs",
  prepare(_input, context) {
    if (context.others.length === 0)
      return {
        value: null,
        problems: [
          {
            path: "settings.markets",
            message: `${context.settings.markets.map((m) => m.symbol).join(", ")}: there is no other source; import one first`,
          },
        ],
      };
    const runs = allReady([ownRun(context), ...context.others.map((one) => readyRun(one.name, context.strategy, one.settings, one.bars))]);
    if (runs.value === null) return runs;
    return { value: { runs: runs.value, names: ["the version's source", ...context.others.map((one) => one.name)] }, problems: [] };
  },
  units: ({ runs }) => runs.length,
  compute({ runs, names }, unit) {
    const { log, legs } = simulate(runs[unit]);
    const entries = Array.from({ length: log.count }, (_, k) => {
      const leg = legs[log.leg[k]];
      return `${leg.market.spec.symbol} ${log.side[k]} ${leg.market.dates[log.entryRow[k]]}`;
    });
    return { ...partOf(names[unit], runs[unit]), entries };
  },
  conclude({ runs }, [own, ...others]) {
    const each = others.map((other) => {
      const common = own.entries.filter((entry) => other.entries.includes(entry)).length;
      const all = own.entries.length + other.entries.length - common;
      const net = own.metrics.netProfit!;
      return {
        correlation: correlation(...changes(own, other)),
        drift: net === 0 ? NaN : (100 * Math.abs(other.metrics.netProfit! - net)) / Math.abs(net),
        sole: all === 0 ? 0 : (100 * (all - common)) / all,
      };
    });
    const known = (x: number) => (Number.isNaN(x) ? null : x);
    const got = {
      correlation: known(Math.min(...each.map((one) => one.correlation))),
      drift: known(Math.max(...each.map((one) => one.drift))),
      sole: Math.max(...each.map((one) => one.sole)),
    };
    const bareUnit = ({ entries: _entries, ...part }: Unit) => bare(part);
    return {
      got,
      said: `correlation ${got.correlation?.toFixed(3) ?? "none"}, the net differs by ${got.drift?.toFixed(1) ?? "–"} %, ${got.sole.toFixed(0)} % of the trades are in one only`,
      parts: [own, ...others].map(bareUnit),
      drawings: [besideDrawing("The same rules on each source", [own, ...others], runs[0].account.capital)],
      weight: runs.slice(1).reduce((sum, run) => sum + barsOf(run), 0),
    };
  },
});
