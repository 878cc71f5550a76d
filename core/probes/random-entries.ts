import { simulate, type PreparedRun } from "#core/engine";
import { Random } from "#core/random";
import { thinned } from "./confidence";
import { probe, type ProbeInput } from "./kind";
import { barsOf, ownRun } from "./runs";

interface Input extends ProbeInput {
  runs: number;
  seed: number;
}

/** A trade as it is dealt again: its side, how long it lasted, what it was worth at its entry, and what it cost. */
export interface Dealt {
  side: number;
  rows: number;
  worth: number;
  costs: number;
}

/** One market's trades, and the rows that they may fall on. */
export interface Deck {
  open: ArrayLike<number>;
  first: number;
  end: number;
  trades: Dealt[];
  /** whether no trade was open while another one was */
  apart: boolean;
}

/** The closed trades of a run by market; an exit at a bar's close counts as one at the next open. */
export function decksOf(run: PreparedRun): { decks: Deck[]; net: number } {
  const { log, legs } = simulate(run);
  let net = 0;
  const decks = legs.map((leg, l): Deck => {
    const { bars, dates, spec } = leg.market;
    const [from, to] = [run.clock.dates[0], run.clock.dates[run.clock.dates.length - 1]];
    let [first, end] = [0, bars.length];
    while (first < end && dates[first] < from) first++;
    while (end > first && dates[end - 1] > to) end--;
    const trades: Dealt[] = [];
    let [busy, apart] = [-1, true];
    for (let k = 0; k < log.count; k++) {
      if (log.leg[k] !== l || log.reason[k] === 0) continue;
      const rows = Math.max(1, log.exitRow[k] - log.entryRow[k] + log.exitAtClose[k]);
      if (log.entryRow[k] < busy) apart = false;
      busy = Math.max(busy, log.entryRow[k] + rows);
      trades.push({ side: log.side[k], rows, worth: Math.abs(log.units[k] * log.entryPrice[k] * spec.pointValue), costs: log.costs[k] });
      net += log.net(k);
    }
    return { open: bars.open, first, end, trades, apart };
  });
  return { decks, net };
}

/** Net of a deck whose trades stand at random times: in a random order with random gaps, or each by itself where they overlap. */
export function dealt({ open, first, end, trades, apart }: Deck, random: Random): number {
  const n = trades.length;
  const worth = ({ side, worth, rows, costs }: Dealt, row: number) => side * worth * (open[row + rows] / open[row] - 1) - costs;
  const room = end - 1 - first;
  let net = 0;
  const held = trades.reduce((sum, trade) => sum + trade.rows, 0);
  if (!apart || held > room) {
    for (const trade of trades) net += worth(trade, first + Math.floor(random.uniform() * Math.max(1, room - trade.rows + 1)));
    return net;
  }
  // the free bars fall between the trades at random (Fisher's stars and bars), the trades in a random order
  const order = trades.slice();
  for (let k = n - 1; k > 0; k--) {
    const other = Math.floor(random.uniform() * (k + 1));
    [order[k], order[other]] = [order[other], order[k]];
  }
  const cuts = Float64Array.from({ length: n }, () => Math.floor(random.uniform() * (room - held + 1))).sort();
  let passed = 0;
  for (let k = 0; k < n; k++) {
    net += worth(order[k], first + cuts[k] + passed);
    passed += order[k].rows;
  }
  return net;
}

export const randomEntries = probe<Input, { run: PreparedRun; decks: Deck[]; net: number; input: Input }, number>({
  kind: "randomEntries",
  name: "Random entries",
  question: "Is it better than the same trades at random times?",
  caution:
    "It does not say that the timing is all: in a market that rises, any long trade earns. The trades keep their side, their length and their size, so that what is left is when they were made.",
  needs: "nothing",
  fields: [
    { key: "runs", label: "Repetitions", kind: "whole", initial: 2000, least: 100, most: 1_000_000 },
    { key: "seed", label: "Seed", kind: "whole", initial: 1 },
  ],
  criteria: [{ key: "better", label: "Better than, of the random ones", unit: "percent", want: "least", initial: 95, from: 0, to: 100 }],
  unitName: "repetitions",
  prepare(input, context) {
    const run = ownRun(context);
    if (run.value === null) return run;
    const { decks, net } = decksOf(run.value);
    const count = decks.reduce((sum, deck) => sum + deck.trades.length, 0);
    if (count < 5)
      return {
        value: null,
        problems: [{ path: "strategy", message: `the version has ${count} closed trades; fewer than 5 can't be told from luck` }],
      };
    return { value: { run: run.value, decks, net, input }, problems: [] };
  },
  units: ({ input }) => input.runs,
  compute({ decks, input }, unit) {
    const random = new Random(input.seed, unit);
    return decks.reduce((sum, deck) => sum + dealt(deck, random), 0);
  },
  conclude({ run, decks, net }, nets) {
    const better = (100 * nets.filter((x) => x < net).length) / nets.length;
    return {
      got: { better },
      said: `better than ${better.toFixed(1)} % of ${nets.length} times that the same ${decks.reduce((sum, deck) => sum + deck.trades.length, 0)} trades were made at random`,
      drawings: [
        {
          kind: "spread",
          title: "Net of the same trades at random times",
          metric: "netProfit",
          unit: "money",
          values: thinned(nets),
          marks: [{ name: "the version", value: net }],
        },
      ],
      weight: barsOf(run),
    };
  },
});
