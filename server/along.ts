import { entryMoment, exitMoment, type Trade } from "#core/documents";
import { contributions, fallPlaces, fallsOf, type Along, type Fall } from "#core/reading";
import { lineOf, type SentLine } from "./lines";
import type { StoredRun } from "./runs";
import { sectorsOf } from "./sectors";
import type { Services } from "./services";

/** What a run can be looked at along the way; each is a chart of its own. */
export const ALONG_CHARTS = ["exposure", "positions", "margin", "markets", "sectors", "profit", "sectorProfit", "units", "costs"] as const;
export type AlongChart = (typeof ALONG_CHARTS)[number];

/** A fall of the equity and what each market (or sector) lost in it, the largest loss first. */
export interface FallParts {
  fall: Fall;
  longest: boolean;
  deepest: boolean;
  markets: { name: string; profit: number }[];
  sectors: { name: string; profit: number }[];
}

/** The moment at which a market's position was largest, and the trade that was open then. */
export interface LargestMoment {
  symbol: string;
  time: number;
  share: number;
  trade: number | null;
}

export interface AlongView {
  charts: { chart: AlongChart; lines: SentLine[] }[];
  falls: FallParts[];
  largest: LargestMoment[];
  /** false where the run has too many markets and bars to keep each market's values */
  byMarket: boolean;
}

/** As many lines are told apart in a chart; the rest is put together. */
const MOST_LINES = 7;
const MOST_FALLS = 5;
const MOST_MOMENTS = 12;

/** What a run left behind that is looked at along the way. */
export interface AlongParts {
  time: Float64Array;
  equity: Float64Array;
  along: Along;
  trades: readonly Trade[];
  capital: number;
}

/** A stored run's own quantities along the way. */
export async function alongView(services: Services, run: StoredRun, charts: readonly AlongChart[], units: string): Promise<AlongView> {
  const [{ time, equity }, { along }, trades, sectors] = await Promise.all([
    run.result.curves(),
    services.reading.alongOf(run),
    run.result.trades(),
    sectorsOf(services),
  ]);
  return alongOfParts({ time, equity, along, trades, capital: run.summary.settings.capital }, sectors, charts, units);
}

/** The charts that are asked for, what the falls were made of, the largest positions. */
export function alongOfParts(
  { time, equity, along, trades, capital }: AlongParts,
  sectors: Record<string, string>,
  charts: readonly AlongChart[],
  units: string,
): AlongView {
  const sectorOf = (symbol: string) => sectors[symbol] ?? "other";
  const lines = (chart: AlongChart): SentLine[] => linesOf(chart, along, sectorOf, units).map(([name, value]) => lineOf(name, time, value));
  const falls = fallsOf(time, equity, capital).sort((a, b) => b.percent - a.percent);
  const longest = falls.reduce<Fall | null>((most, fall) => (most === null || fall.days > most.days ? fall : most), null);
  const shown = falls.slice(0, MOST_FALLS);
  if (longest !== null && !shown.includes(longest)) shown.push(longest);
  return {
    charts: charts.map((chart) => ({ chart, lines: lines(chart) })),
    falls: shown.map((fall, i) => {
      const parts = contributions(along, ...fallPlaces(fall, time, equity)) ?? [];
      return {
        fall,
        deepest: i === 0,
        longest: fall === longest,
        markets: parts.map(({ symbol, profit }) => ({ name: symbol, profit })),
        sectors: summed(parts, sectorOf),
      };
    }),
    largest: largestMoments(along, time, trades),
    byMarket: along.markets !== null,
  };
}

/** Sector by symbol; a market without one stands under its kind. */
function linesOf(chart: AlongChart, along: Along, sectorOf: (symbol: string) => string, units: string): [string, Float64Array][] {
  const { symbols, markets } = along;
  const percent = (share: Float64Array, sign = 1) => share.map((x) => sign * 100 * x);
  const named = (columns: readonly Float64Array[]) => columns.map((column, k): [string, Float64Array] => [symbols[k], column]);
  switch (chart) {
    case "exposure":
      return [
        ["long", percent(along.longShare)],
        ["short", percent(along.shortShare, -1)],
        ["largest market", percent(along.largestShare)],
      ];
    case "positions":
      return [
        ["markets held", along.positions],
        ["open trades", along.trades],
      ];
    case "margin":
      return [["margin in use", percent(along.marginShare)]];
    case "costs":
      return [
        ["commissions", along.commissions],
        ["spread", along.spread],
        ["slippage", along.slippage],
        ["financing", along.financing],
      ];
  }
  if (markets === null) return [];
  switch (chart) {
    case "markets":
      return foremost(named(markets.share.map((share) => percent(share))), highest);
    case "sectors":
      return foremost(grouped(named(markets.share.map((share) => percent(share))), sectorOf), highest);
    case "profit":
      return foremost(named(markets.profit), last);
    case "sectorProfit":
      return foremost(grouped(named(markets.profit), sectorOf), last);
    case "units": {
      const k = Math.max(0, symbols.indexOf(units));
      return [[`units of ${symbols[k]}`, markets.units[k]]];
    }
  }
}

const last = (column: Float64Array): number => Math.abs(column[column.length - 1]);
const highest = (column: Float64Array): number => column.reduce((most, x) => (Math.abs(x) > most ? Math.abs(x) : most), 0);

/** The lines that matter most, and the others put together. */
function foremost(lines: [string, Float64Array][], weight: (column: Float64Array) => number): [string, Float64Array][] {
  if (lines.length <= MOST_LINES + 1) return lines;
  const ordered = [...lines].sort((a, b) => weight(b[1]) - weight(a[1]));
  const rest = ordered.slice(MOST_LINES);
  return [...ordered.slice(0, MOST_LINES), [`${rest.length} others together`, added(rest.map(([, column]) => column))]];
}

function grouped(lines: [string, Float64Array][], groupOf: (name: string) => string): [string, Float64Array][] {
  const groups = new Map<string, Float64Array[]>();
  for (const [name, column] of lines) groups.set(groupOf(name), [...(groups.get(groupOf(name)) ?? []), column]);
  return [...groups].sort(([a], [b]) => (a < b ? -1 : 1)).map(([name, columns]) => [name, added(columns)]);
}

function added(columns: readonly Float64Array[]): Float64Array {
  const out = new Float64Array(columns[0].length);
  for (const column of columns) for (let t = 0; t < out.length; t++) out[t] += column[t];
  return out;
}

function summed(parts: readonly { symbol: string; profit: number }[], groupOf: (symbol: string) => string): FallParts["sectors"] {
  const groups = new Map<string, number>();
  for (const { symbol, profit } of parts) groups.set(groupOf(symbol), (groups.get(groupOf(symbol)) ?? 0) + profit);
  return [...groups].map(([name, profit]) => ({ name, profit })).sort((a, b) => a.profit - b.profit);
}

/** For each market the close at which its share of the equity was largest; the largest of these first. */
function largestMoments({ symbols, markets }: Along, time: Float64Array, trades: readonly Trade[]): LargestMoment[] {
  if (markets === null) return [];
  return markets.share
    .map((share, k) => {
      let at = 0;
      for (let t = 1; t < share.length; t++) if (Math.abs(share[t]) > Math.abs(share[at])) at = t;
      return { symbol: symbols[k], at, share: share[at] };
    })
    .filter(({ share }) => Math.abs(share) > 0)
    .sort((a, b) => Math.abs(b.share) - Math.abs(a.share))
    .slice(0, MOST_MOMENTS)
    .map(({ symbol, at, share }) => {
      const open = trades.find(
        (trade) => trade.symbol === symbol && entryMoment(trade) <= time[at] && (trade.open || exitMoment(trade) > time[at]),
      );
      return { symbol, time: time[at], share, trade: open?.id ?? null };
    });
}
