import { compareTimeframes, parseTimeframe } from "#core/bars";
import type { Settings } from "#core/documents";
import { PROBES, type ProbeInput } from "#core/probes";
import { settingsMarket, type MarketView, type Markets, type SourceView } from "./markets";
import { Refused, refuse } from "./problem";
import type { Seals } from "./seals";
import type { ProbeWork } from "./probe-work";

/** Finer bars that reach over less of a window than this are no stand-in for the whole. */
const ENOUGH = 0.5;

/** The finest source of a market that is finer than the one at hand and reaches over enough of its time; null without one. */
function finestOf(market: MarketView, own: Pick<SourceView, "timeframe" | "firstTime" | "lastTime">): SourceView | null {
  const finer = market.sources
    .filter((source) => compareTimeframes(parseTimeframe(source.timeframe)!, parseTimeframe(own.timeframe)!) < 0)
    .filter((source) => {
      const [from, to] = [Math.max(source.firstTime, own.firstTime), Math.min(source.lastTime, own.lastTime)];
      return to - from >= ENOUGH * (own.lastTime - own.firstTime);
    });
  finer.sort(
    (a, b) =>
      compareTimeframes(parseTimeframe(a.timeframe)!, parseTimeframe(b.timeframe)!) ||
      Number(b.name === market.source) - Number(a.name === market.source) ||
      a.id - b.id,
  );
  return finer[0] ?? null;
}

/** The bars beside a version's own on which a probe of some kind runs, by what it needs. */
export async function othersFor(
  kind: string,
  input: ProbeInput,
  settings: Settings,
  timeframe: string,
  markets: Markets,
  seals: Seals,
): Promise<ProbeWork["others"]> {
  const need = (symbol: string) => markets.bySymbol(symbol);
  const own = await Promise.all(settings.markets.map((market) => need(market.symbol)));
  if (own.some((market) => market === null)) return refuse("settings", "a market of these run settings was deleted");
  switch (PROBES.get(kind)!.needs) {
    case "nothing":
      return [];
    case "markets": {
      const asked = (input.markets as string[]).filter((symbol) => !settings.markets.some((market) => market.symbol === symbol));
      return Promise.all(
        asked.map(async (symbol) => {
          const market = await need(symbol);
          if (market === null) throw new Refused([{ path: "markets", message: `there is no market ${symbol}` }]);
          return {
            name: symbol,
            settings: {
              ...settings,
              markets: [settingsMarket(market, timeframe)],
              costs: market.costs,
              marketLimit: null,
              benchmark: null,
            },
          };
        }),
      );
    }
    case "sources":
      return settings.markets.flatMap((market, m) =>
        own[m]!.sources.filter((source) => source.barsHash !== market.bars && source.timeframe === market.timeframe).map((source) => ({
          name: settings.markets.length === 1 ? source.name : `${market.symbol} from ${source.name}`,
          settings: { ...settings, markets: settings.markets.map((one, k) => (k === m ? { ...one, bars: source.barsHash } : one)) },
        })),
      );
    case "finest": {
      const finest = settings.markets.map((market, m) => {
        const held =
          own[m]!.sources.find((source) => source.barsHash === market.bars) ?? own[m]!.sources.find((source) => source.isDefault)!;
        return finestOf(own[m]!, held);
      });
      if (finest.some((source) => source === null)) return [];
      const [{ timeframe: fine }] = finest as SourceView[];
      if (compareTimeframes(parseTimeframe(fine)!, parseTimeframe(timeframe)!) >= 0) return [];
      return [
        {
          name: `bars of ${fine} decide inside a bar`,
          settings: {
            ...settings,
            fineTimeframe: fine,
            markets: settings.markets.map((market, m) => ({ ...market, bars: finest[m]!.barsHash, timeframe: finest[m]!.timeframe })),
          },
        },
      ];
    }
    case "sealed":
      return seals.behind(settings, own as MarketView[]);
  }
}
