import { cpus } from "node:os";
import { judgeFinding, PROBES, readInput, type ProbeContext } from "#core/probes";
import { drawn, walked } from "#core/probes/shuffled-trades";
import { Random } from "#core/random";
import { benchBars, DAILY } from "./data";
import { HandLoop } from "./hand";
import { benchSettings, benchStrategy, handRules } from "./strategy";

type Line = (name: string, unit: string, ours: number, hand: number) => void;

const context = (): ProbeContext => ({
  strategy: benchStrategy("1d"),
  settings: benchSettings("1d"),
  bars: [benchBars(5000, DAILY.step)],
  others: [],
});

/** Seconds that a whole probe takes in this thread, from its input to its outcome; the least of three. */
function secondsOf(kind: string, given: object): number {
  const probe = PROBES.get(kind)!;
  const input = readInput(probe, given).value!;
  const once = () => {
    const began = performance.now();
    const { value } = probe.prepare(input, context());
    const units = Array.from({ length: probe.units(value) }, (_, k) => probe.compute(value, k));
    judgeFinding(probe, input, probe.conclude(value, units));
    return (performance.now() - began) / 1000;
  };
  return Math.min(once(), once(), once());
}

/** A thousand runs with shaken parameters on 5,000 bars, set against as many of the loop written by hand. */
export function shakenParameters(line: Line): void {
  const bars = benchBars(5000, DAILY.step);
  const loop = new HandLoop(bars.length);
  const hand = () => {
    const random = new Random(1);
    const began = performance.now();
    for (let k = 0; k < 1000; k++) {
      const shaken = (value: number) => Math.max(1, Math.round(value * (1 + 0.2 * (2 * random.uniform() - 1))));
      loop.run(bars, handRules(shaken(20), shaken(100)));
    }
    return (performance.now() - began) / 1000;
  };
  hand();
  const theirs = Math.min(hand(), hand(), hand());
  const ours = secondsOf("shakenParameters", { runs: 1000, criteria: { share: 50 } });
  line(
    "probe-parameters-1000",
    "runs per second in one thread, all figures of each, against the hand-written loop without figures",
    1000 / ours,
    1000 / theirs,
  );
}

/** Absolute seconds of what has no counterpart by hand. */
export function heavyProbes(): void {
  const search = {
    vary: [
      { name: "fast", from: 5, to: 29, step: 1 },
      { name: "slow", from: 50, to: 240, step: 10 },
    ],
    objective: [{ metric: "profitToDrawdown" }],
  };
  const map = secondsOf("walkForwardMap", { search, windows: [6, 8, 10, 12, 14, 16], outShare: [15, 20, 25, 30], criteria: { depth: 1 } });
  console.log(
    JSON.stringify({
      name: "probe-map-6x4",
      unit: `seconds in one thread of ${cpus().length}, 500 combinations a fit`,
      ours: Number(map.toFixed(2)),
    }),
  );
  const random = new Random(3);
  const returns = Float64Array.from({ length: 1000 }, () => 0.01 * random.normal());
  const out = new Float64Array(1000);
  const began = performance.now();
  for (let k = 0; k < 10_000; k++) walked(out, drawn(returns, "order", { block: 1, leftOut: 0 }, new Random(1, k), out), null);
  console.log(
    JSON.stringify({
      name: "probe-shuffles-10k",
      unit: "seconds for 10,000 shuffles of 1,000 trades in one thread",
      ours: Number(((performance.now() - began) / 1000).toFixed(3)),
    }),
  );
}
