import { formatDate, parseDate, parseTimeframe, MarketCalendar, sessionDates } from "#core/bars";
import type { PreparedRun } from "#core/engine";
import { atr } from "#core/indicators";
import { median } from "#core/metrics";
import { Random } from "#core/random";
import { drawnBars, noisyBars } from "#core/synthetic";
import { againstReal, confidence, thinned } from "./confidence";
import { probe, type ProbeContext, type ProbeInput } from "./kind";
import { barsOf, figuresOf, ownRun, readyRun, stored, type Figures } from "./runs";

type Way = "noise" | "start" | "drawn";

interface Input extends ProbeInput {
  way: Way;
  runs: number;
  noise: number;
  latest: number;
  days: number;
  factor: number;
  seed: number;
}

interface Prepared {
  context: ProbeContext;
  run: PreparedRun;
  input: Input;
  /** session date and whether it may change, of every row, market by market */
  markets: { dates: Float64Array; first: number; end: number; range: Float64Array }[];
}

const PERIOD = 14;

/** One changed history, or the version's own from another date on. */
function changed({ context, input, markets, run }: Prepared, number: number): PreparedRun {
  const { strategy, settings, bars } = context;
  if (input.way === "start") {
    const first = run.clock.dates[0];
    const from = first + Math.floor(new Random(input.seed, number).uniform() * (input.latest + 1));
    return readyRun("a later start", strategy, { ...settings, from: formatDate(from) }, bars).value!;
  }
  const other = bars.map((own, m) => {
    const random = new Random(input.seed, number * bars.length + m);
    const { dates, first, end, range } = markets[m];
    const { tick } = settings.markets[m];
    if (input.way === "drawn") return drawnBars(own, dates, { first, end }, input.days, random, tick);
    const scale = range.map((x) => (x * input.noise) / 100);
    return noisyBars(own, { first, end }, scale, random, tick);
  });
  return readyRun("a changed history", strategy, settings, other).value!;
}

const WAYS: Record<Way, string> = {
  noise: "prices moved a little",
  start: "begun later",
  drawn: "histories drawn from the same days",
};

export const shakenData = probe<Input, Prepared, Figures>({
  kind: "shakenData",
  name: "Data shaken",
  question: "Does it hold on a history that could as well have happened?",
  caution:
    "It does not say what the market will do: drawn histories keep the days and lose what ran longer than a block, so that long trends are shorter there than they were.",
  needs: "nothing",
  fields: [
    {
      key: "way",
      label: "The history is",
      kind: "choice",
      initial: "noise",
      choices: (Object.keys(WAYS) as Way[]).map((value) => ({ value, label: WAYS[value] })),
    },
    { key: "runs", label: "Histories", kind: "whole", initial: 200, least: 10, most: 10_000 },
    {
      key: "noise",
      label: "Prices moved by, of the average range of 14 bars",
      kind: "number",
      initial: 10,
      least: 0.1,
      most: 200,
      unit: "%",
    },
    { key: "latest", label: "Begun up to so many days later", kind: "whole", initial: 365, least: 1, most: 10_000 },
    { key: "days", label: "Days of a block, on average", kind: "number", initial: 60, least: 1, most: 1000 },
    { key: "factor", label: "A history holds from a profit factor of", kind: "number", initial: 1.1, least: 0, most: 1000 },
    { key: "seed", label: "Seed", kind: "whole", initial: 1 },
  ],
  criteria: [
    { key: "share", label: "Histories that hold", unit: "percent", want: "least", initial: 80, from: 0, to: 100 },
    {
      key: "kept",
      label: "Median net of the histories, of the real one",
      unit: "percent",
      want: "least",
      initial: null,
      from: -1000,
      to: 1000,
    },
  ],
  unitName: "histories",
  prepare(input, context) {
    const run = ownRun(context);
    if (run.value === null) return run;
    const { clock } = run.value;
    const last = clock.dates[clock.dates.length - 1];
    if (input.way === "start" && clock.dates[0] + input.latest >= last - 30)
      return {
        value: null,
        problems: [
          {
            path: "latest",
            message: `the window has ${last - clock.dates[0]} days; a start up to ${input.latest} days later leaves nothing to trade`,
          },
        ],
      };
    const [from, to] = [context.settings.from, context.settings.to].map((date) => (date === null ? null : parseDate(date)));
    const markets = context.settings.markets.map((market, m) => {
      const bars = context.bars[m];
      const dates = sessionDates(bars.time, parseTimeframe(market.timeframe)!, new MarketCalendar(market.session ?? null));
      // the first bar of all has no close before it to be measured against
      let [first, end] = [1, bars.length];
      while (from !== null && first < end && dates[first] < from) first++;
      while (to !== null && end > first && dates[end - 1] > to) end--;
      return { dates, first, end, range: atr(bars, PERIOD) };
    });
    return { value: { context, run: run.value, input, markets }, problems: [] };
  },
  // the real history is the first unit
  units: ({ input }) => input.runs + 1,
  compute: (prepared, unit) => stored(figuresOf(unit === 0 ? prepared.run : changed(prepared, unit), null)),
  conclude({ run, input }, [real, ...runs]) {
    const { nets, own, share, kept } = againstReal(real, runs, input.factor);
    return {
      got: { share, kept },
      said: `${share.toFixed(0)} % of ${runs.length} hold, ${WAYS[input.way]}; their median net is ${median(nets).toFixed(1)} %, the real one ${own.toFixed(1)} %`,
      drawings: [
        {
          kind: "spread",
          title: `Net profit, ${WAYS[input.way]}`,
          metric: "netPercent",
          unit: "percent",
          values: thinned(nets),
          marks: [{ name: "the real history", value: own }],
        },
        confidence(runs, real),
      ],
      weight: barsOf(run),
    };
  },
});
