import { MINUTE, type Bars } from "#core/bars";
import type { Settings } from "#core/documents";
import { simulate } from "#core/engine";
import { prepareMembers, runPortfolio, stretchRow, weightsBy, wholeRun, type Member } from "#core/portfolio";
import { Random } from "#core/random";
import { benchBars, DAILY } from "./data";
import { HandLoop } from "./hand";
import { benchSettings, benchStrategy, handRules } from "./strategy";

type Line = (name: string, unit: string, ours: number, hand: number) => void;

const MEMBERS = 10;

/** Ten members on a market each, of the bars given. */
function ten(bars: readonly Bars[], timeframes: readonly string[], timeframe: string): { members: Member[]; settings: Settings } {
  const settings = benchSettings(timeframe);
  const markets = bars.map((_, k) => ({ ...settings.markets[0], symbol: `M${k}`, timeframe: timeframes[k] }));
  const members = bars.map((_, k): Member => ({
    name: `m${k}`,
    strategy: benchStrategy(timeframe),
    markets: [`M${k}`],
    weight: 1 / MEMBERS,
  }));
  return { members, settings: { ...settings, markets, benchmark: null } };
}

/** The least of five runs, in seconds. */
const least = (work: () => void): number =>
  Math.min(
    ...Array.from({ length: 5 }, () => {
      const began = performance.now();
      work();
      return (performance.now() - began) / 1000;
    }),
  );

const shifted = (bars: Bars, k: number): Bars => ({ ...bars, close: bars.close.map((x, t) => x + ((t * (k + 3)) % 7) / 10) });

/** Ten members on one account: whole results, a weight that moves, members on fine bars; beside ten hand-written loops. */
export function portfolios(line: Line): void {
  const daily = Array.from({ length: MEMBERS }, (_, k) => shifted(benchBars(5600, DAILY.step), k));
  const loop = new HandLoop(5600);
  const hand = least(() => daily.forEach((bars) => loop.run(bars, handRules())));
  const { members, settings } = ten(daily, daily.map(() => "1d"), "1d"); // prettier-ignore
  const whole = least(() => void runPortfolio(members, settings, daily));
  const say = (name: string, unit: string, seconds: number) => {
    line(name, unit, 1 / seconds, 1 / hand);
    console.log(JSON.stringify({ name: `${name}-took`, unit: "milliseconds, for information", took: Math.round(1000 * seconds) }));
  };
  say("portfolio-ten-22y", "whole results per second, ten members, 5,600 daily bars, beside ten hand-written loops", whole);
  const prepared = prepareMembers(members, settings, daily).value!;
  let turn = 0;
  const moved = least(() => {
    turn++;
    const weights = members.map((_, m) => (m === 0 ? 0.1 + (turn % 5) / 100 : (0.9 - (turn % 5) / 100) / 9));
    const runMembers = prepared.runMembers.map((member, m) => ({ ...member, weight: weights[m] }));
    stretchRow(simulate(wholeRun({ prepared: { ...prepared, runMembers }, settings }), { members: true }));
  });
  say("portfolio-weight-moved", "redraws per second after a weight moved", moved);
  // 27 bars of 20 minutes a day, 252 days a year, three years
  const fine = Array.from({ length: 2 }, (_, k) => shifted(benchBars(3 * 252 * 72, 20 * MINUTE), k));
  const mixed = [...fine, ...daily.slice(2)];
  const two = ten(mixed, mixed.map((_, k) => (k < 2 ? "20m" : "1d")), "1d"); // prettier-ignore
  say("portfolio-two-of-20m", "whole results per second, two of ten on daily bars made of 20-minute ones", least(() => void runPortfolio(two.members, two.settings, mixed))); // prettier-ignore
  const all = Array.from({ length: MEMBERS }, (_, k) => shifted(benchBars(3 * 252 * 72, 20 * MINUTE), k));
  const intraday = ten(all, all.map(() => "20m"), "20m"); // prettier-ignore
  say("portfolio-ten-20m", "whole results per second, all ten on 20-minute bars of three years", least(() => void runPortfolio(intraday.members, intraday.settings, all))); // prettier-ignore
  const random = new Random(1);
  const spread = Array.from({ length: MEMBERS }, () => 0.5 + random.uniform());
  const matrix = spread.map((a, i) => spread.map((b, j) => a * b * (i === j ? 1 : 0.3)));
  say(
    "portfolio-weights",
    "most diversified weights of ten per second",
    least(() => void weightsBy("maximumDiversification", matrix, {})),
  );
}
