import { DAY, firstAtOrAfter, MarketCalendar, marketSpec, parseTimeframe, type Bars } from "#core/bars";
import { LAST, saltmarchSession } from "../calendar";
import { boardMoves, DEMO_MARKETS, demoSources, SOURCES } from "../markets";
import { DEMO_SHARES, shareBars } from "../shares";
import { saltmarchDates } from "../calendar";
import { secondSource } from "../breakwater";

/** How far beyond the stored history the service can go, in days. */
export const AHEAD = 730;

export interface Series {
  source: string;
  symbol: string;
  timeframe: string;
}

/** Everything that the service can tell, made when it is first asked for. */
export class Book {
  private readonly kept = new Map<string, Bars>();
  private readonly calendars = new Map<string, MarketCalendar>();

  series(): Series[] {
    return [
      ...DEMO_MARKETS.flatMap(({ spec: { symbol }, minutes }) => [
        ...SOURCES.map((source) => ({ source, symbol, timeframe: "1d" })),
        ...(minutes?.sources ?? []).map((source) => ({ source, symbol, timeframe: "1m" })),
      ]),
      ...DEMO_SHARES.flatMap(({ symbol }) => SOURCES.map((source) => ({ source, symbol, timeframe: "1d" }))),
    ];
  }

  private bars(wanted: Series): Bars | null {
    const key = (one: Series) => `${one.symbol} ${one.source} ${one.timeframe}`;
    const known = this.kept.get(key(wanted));
    if (known !== undefined) return known;
    const { symbol } = wanted;
    const market = DEMO_MARKETS.find((one) => one.spec.symbol === symbol);
    if (market !== undefined) {
      this.calendars.set(symbol, new MarketCalendar(market.spec.session));
      for (const { bars, source, timeframe } of demoSources(market, LAST + AHEAD)) this.kept.set(key({ symbol, source, timeframe }), bars);
    }
    const share = DEMO_SHARES.findIndex((one) => one.symbol === symbol);
    if (share >= 0) {
      this.calendars.set(symbol, new MarketCalendar(saltmarchSession()));
      const bars = shareBars(share, saltmarchDates(LAST + AHEAD), boardMoves(LAST + AHEAD));
      this.kept.set(key({ symbol, source: "Lighthouse", timeframe: "1d" }), bars);
      this.kept.set(
        key({ symbol, source: "Breakwater", timeframe: "1d" }),
        secondSource(bars, marketSpec({ symbol }).tick, 5000 + share, 0.002),
      );
    }
    return this.kept.get(key(wanted)) ?? null;
  }

  /** Bars from a time on that are complete at `now`, at most `most`; null for a series that the service doesn't have. */
  from(wanted: Series, time: number, now: number, most: number): { rows: number[][]; more: boolean } | null {
    const bars = this.bars(wanted);
    if (bars === null) return null;
    const timeframe = parseTimeframe(wanted.timeframe)!;
    const calendar = this.calendars.get(wanted.symbol)!;
    const rows: number[][] = [];
    for (let i = firstAtOrAfter(bars.time, time); i < bars.length; i++) {
      if (bars.time[i] > now || calendar.endOf(bars.time[i], timeframe) > now) break;
      if (rows.length === most) return { rows, more: true };
      rows.push([bars.time[i], bars.open[i], bars.high[i], bars.low[i], bars.close[i], bars.volume[i]]);
    }
    return { rows, more: false };
  }
}

/** When the service's clock begins: the evening of the last stored day. */
export const FEED_START = (LAST + 1) * DAY;
