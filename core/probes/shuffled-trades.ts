import { simulate, type PreparedRun } from "#core/engine";
import { percentile } from "#core/metrics";
import { Random } from "#core/random";
import { thinned } from "./confidence";
import { probe, type ProbeInput } from "./kind";
import { barsOf, ownRun } from "./runs";

type Way = "order" | "replacement" | "blocks" | "leftOut";

interface Input extends ProbeInput {
  way: Way;
  runs: number;
  block: number;
  leftOut: number;
  ruin: number;
  seed: number;
}

/** Points of the fan of equity. */
const FAN = 60;

/** Shuffles that the fan is drawn from; more do not change it. */
const FANNED = 2000;

/** What one shuffle came to: end and deepest fall in percent, and its growth at the fan's points where it is one of those drawn. */
interface Unit {
  net: number;
  fall: number;
  fan: number[] | null;
}

/**
 * Closed trades in the order of their exits, each as its net ÷ the balance before it: their product with 1 is the run's
 * closed balance ÷ capital, whatever the sizing.
 */
export function tradeReturns(run: PreparedRun): number[] {
  const { log, legs } = simulate(run);
  const trades = Array.from({ length: log.count }, (_, k) => k).filter((k) => log.reason[k] !== 0);
  const at = (k: number) => legs[log.leg[k]].market.bars.time[log.exitRow[k]];
  trades.sort((a, b) => at(a) - at(b) || a - b);
  let balance = run.account.capital;
  return trades.map((k) => {
    const net = log.net(k);
    const share = balance > 0 ? net / balance : 0;
    balance += net;
    return share;
  });
}

/** One sequence of trades drawn from others, into `out`; gives how many it holds. */
export function drawn(
  returns: Float64Array,
  way: Way,
  { block, leftOut }: Pick<Input, "block" | "leftOut">,
  random: Random,
  out: Float64Array,
): number {
  const n = returns.length;
  const pick = (most: number) => Math.floor(random.uniform() * most);
  if (way === "replacement") {
    for (let i = 0; i < n; i++) out[i] = returns[pick(n)];
    return n;
  }
  if (way === "blocks") {
    for (let i = 0; i < n;) for (let from = pick(n), j = 0; j < block && i < n; j++, i++) out[i] = returns[(from + j) % n];
    return n;
  }
  out.set(returns);
  if (way === "order") {
    for (let k = n - 1; k > 0; k--) {
      const other = pick(k + 1);
      const held = out[k];
      out[k] = out[other];
      out[other] = held;
    }
    return n;
  }
  // so many left out, the others in their order
  let [kept, gone] = [0, Math.round((leftOut / 100) * n)];
  for (let i = 0; i < n; i++) {
    if (random.uniform() * (n - i) < gone) gone--;
    else out[kept++] = returns[i];
  }
  return kept;
}

/** End and deepest fall of a sequence, in percent, and its value at the fan's points. */
export function walked(sequence: Float64Array, count: number, fan: number[] | null): { net: number; fall: number } {
  let [value, peak, fall, next] = [1, 1, 0, 0];
  for (let i = 0; i < count; i++) {
    value *= 1 + sequence[i];
    if (!(value > 0)) value = 0;
    if (value > peak) peak = value;
    else if (peak - value > fall * peak) fall = (peak - value) / peak;
    while (fan !== null && next < FAN && (i + 1) * FAN >= (next + 1) * count) fan[next++] = 100 * (value - 1);
  }
  return { net: 100 * (value - 1), fall: 100 * fall };
}

const WAYS: Record<Way, string> = {
  order: "in another order",
  replacement: "drawn with replacement",
  blocks: "drawn in blocks",
  leftOut: "with some left out",
};

export const shuffledTrades = probe<Input, { run: PreparedRun; returns: Float64Array; sequence: Float64Array; input: Input }, Unit>({
  kind: "shuffledTrades",
  name: "Trades shuffled",
  question: "How deep could the same trades have fallen in another order?",
  caution:
    "It does not say what other trades would come: it deals the same cards again. Shuffling in single trades breaks up streaks that belong together; blocks keep them.",
  needs: "nothing",
  fields: [
    {
      key: "way",
      label: "The trades are",
      kind: "choice",
      initial: "order",
      choices: (Object.keys(WAYS) as Way[]).map((value) => ({ value, label: WAYS[value] })),
    },
    { key: "runs", label: "Shuffles", kind: "whole", initial: 5000, least: 100, most: 1_000_000 },
    { key: "block", label: "Trades in a block", kind: "whole", initial: 5, least: 1, most: 1000 },
    { key: "leftOut", label: "Left out", kind: "number", initial: 10, least: 1, most: 90, unit: "%" },
    { key: "ruin", label: "Ruin is a fall of", kind: "number", initial: 50, least: 1, most: 100, unit: "%" },
    { key: "seed", label: "Seed", kind: "whole", initial: 1 },
  ],
  criteria: [
    { key: "drawdown", label: "Drawdown that 95 of 100 stay within", unit: "percent", want: "most", initial: 25, from: 0, to: 100 },
    { key: "ruin", label: "Share that comes to ruin", unit: "percent", want: "most", initial: 1, from: 0, to: 100 },
    { key: "net", label: "Net that 95 of 100 reach", unit: "percent", want: "least", initial: null, from: -100, to: 1e9 },
  ],
  unitName: "shuffles",
  prepare(input, context) {
    const run = ownRun(context);
    if (run.value === null) return run;
    const returns = Float64Array.from(tradeReturns(run.value));
    if (returns.length < 10)
      return {
        value: null,
        problems: [
          {
            path: "strategy",
            message: `the version has ${returns.length} closed trades; fewer than 10 tell nothing however they are shuffled`,
          },
        ],
      };
    return { value: { run: run.value, returns, sequence: new Float64Array(returns.length), input }, problems: [] };
  },
  units: ({ input }) => input.runs,
  compute({ returns, input, sequence }, unit) {
    const count = drawn(returns, input.way, input, new Random(input.seed, unit), sequence);
    const fan: number[] | null = unit < FANNED ? [] : null;
    return { ...walked(sequence, count, fan), fan };
  },
  conclude({ run, returns, input }, units) {
    const net = units.map((unit) => unit.net);
    const fall = units.map((unit) => unit.fall);
    const curves = units.flatMap((unit) => (unit.fan === null ? [] : [unit.fan]));
    const real: number[] = [];
    const own = walked(returns, returns.length, real);
    const drawdown = percentile(fall, 95);
    const ruin = (100 * fall.filter((x) => x >= input.ruin).length) / fall.length;
    const x = Array.from({ length: FAN }, (_, k) => Math.round(((k + 1) * returns.length) / FAN));
    return {
      got: { drawdown, ruin, net: percentile(net, 5) },
      said: `95 of 100 stay within a drawdown of ${drawdown.toFixed(1)} % (the version: ${own.fall.toFixed(1)} %); ${ruin.toFixed(1)} % fall by ${input.ruin} % or more`,
      drawings: [
        {
          kind: "fan",
          title: `${returns.length} trades ${WAYS[input.way]}, ${fall.length} times`,
          across: "trades",
          x,
          bands: [5, 25, 50, 75, 95].map((percent) => ({
            percent,
            values: x.map((_, k) =>
              percentile(
                curves.map((curve) => curve[k]),
                percent,
              ),
            ),
          })),
          real,
        },
        {
          kind: "spread",
          title: "Max drawdown",
          metric: "maxDrawdownPercent",
          unit: "percent",
          values: thinned(fall),
          marks: [
            { name: "the version", value: own.fall },
            { name: "95 of 100", value: drawdown },
          ],
        },
      ],
      weight: barsOf(run),
    };
  },
});
