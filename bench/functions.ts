import { compileStrategy } from "#core/engine";
import { readStrategy } from "#core/documents";
import { checkRule, ColumnStore, FUNCTIONS } from "#core/rules";
import { benchBars, MINUTES } from "./data";

type Line = (name: string, unit: string, ours: number, hand: number) => void;

/** One call, in seconds; the best of a few. */
function once(work: () => void, tries = 3): number {
  let best = Infinity;
  for (let i = 0; i < tries; i++) {
    const start = performance.now();
    work();
    best = Math.min(best, performance.now() - start);
  }
  return best / 1000;
}

/** Every function with a window, over a million bars: at 10,000 bars against 10, so that a ratio near 1 says that the window does not matter. */
export function functions(line: Line): void {
  const bars = benchBars(1_000_000, MINUTES.step);
  for (const { name, inputs, settings, yesNo, parts = [], defaultPart } of FUNCTIONS.values()) {
    if (settings[0]?.whole !== true) continue;
    const series = inputs.map((_, i) => (yesNo?.includes(i) ? "close > open" : i === 0 ? "close" : "volume"));
    const at = (n: number) => {
      const rest = settings.slice(1).map((setting) => setting.default ?? 70);
      const rule = `${name}(${[...series, n, ...rest].join(", ")})${parts.length > 0 && defaultPart === undefined ? `.${parts[0]}` : ""}`;
      const { formula } = checkRule(rule);
      return bars.length / once(() => void new ColumnStore(bars).column(formula!, {}));
    };
    const [short, middle, long] = [at(10), at(100), at(10_000)];
    line(`function-${name}`, `bars per second with a window of 10,000 (100: ${Math.round(middle)}) against one of 10`, long, short);
  }
}

/** Reading, checking and compiling a strategy of 200 terms: ours per second against the 100 that 10 ms each would be. */
export function compiling(line: Line): void {
  const term = (i: number) => `sma(close, ${5 + i}) > ema(close, ${9 + i}) 1 back`;
  const rule = (from: number, to: number) => Array.from({ length: to - from }, (_, i) => term(from + i)).join(" and ");
  const strategy = readStrategy({
    format: "canyon.strategy/1",
    timeframe: "1d",
    definitions: [{ name: "filter", rule: rule(0, 50) }],
    long: { enter: { when: `filter and ${rule(50, 100)}` }, exit: { when: rule(100, 150) } },
    short: { enter: { when: rule(150, 200) } },
    sizing: { mode: "units", value: 1 },
  }).value!;
  const seconds = once(() => void compileStrategy(strategy), 30);
  line(`compile-200-terms (${(seconds * 1000).toFixed(1)} ms)`, "strategies per second against 100", 1 / seconds, 100);
}
