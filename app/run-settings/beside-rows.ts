import type { Settings } from "#core/documents";
import { applySaved, settingFacts } from "#core/settings";
import type { MarketView } from "#server/markets";
import { dateText } from "~/design/format";
import { knowMarket } from "~/runs/use-run-settings";
import type { Under } from "./under";

/** One row: run settings that others make of those in force; null with the reason where they can't be had. */
export interface BesideRow {
  key: string;
  name: string;
  about: string;
  settings: Settings | null;
  why: string | null;
}

/** Bars of another source than those in force have, as a note: which, and since when. */
function otherBars(settings: Settings, inForce: Settings, markets: readonly MarketView[]): string | null {
  const other = settings.markets.find((market) => inForce.markets.some((one) => one.symbol === market.symbol && one.bars !== market.bars));
  const source = markets.find((market) => market.symbol === other?.symbol)?.sources.find((one) => one.barsHash === other?.bars);
  return source === undefined ? null : `${source.timeframe} bars of ${source.name}, from ${dateText(source.firstTime)}`;
}

/** Ready-made ones that change little in most runs, left out until they are asked for. */
const SELDOM = new Set(["ready.market-costs", "ready.by-the-tick"]);

/**
 * The rows of the table: the settings in force first, then the chosen ones laid over them. Without a choice: all that can
 * be had and say something else.
 */
export function besideRows(
  settings: Settings,
  timeframe: string,
  all: readonly Under[],
  chosen: readonly string[] | null,
  markets: readonly MarketView[],
): BesideRow[] {
  const know = knowMarket(markets);
  const inForce = JSON.stringify(settings);
  const rows = all
    .filter((under) => (chosen === null ? !SELDOM.has(under.key) : chosen.includes(under.key)))
    .flatMap((under): BesideRow[] => {
      const { settings: applied, problems } = applySaved(under.saved, settings, timeframe, know);
      const about = settingFacts(under.saved)
        .map(({ what, says }) => `${what}: ${says}`)
        .join("; ");
      const why = problems[0]?.message ?? null;
      const bars = applied === null ? null : otherBars(applied, settings, markets);
      const row = { key: under.key, name: bars === null ? under.name : `${under.name}: ${bars}`, about, settings: applied, why };
      // other bars change the result by themselves: the same bars without their say show how much
      return bars === null || applied === null
        ? [row]
        : [
            row,
            {
              ...row,
              key: `${under.key} bars`,
              name: `as set, made of the same ${bars}`,
              settings: { ...settings, markets: applied.markets },
            },
          ];
    })
    .filter((row) => chosen !== null || (row.settings !== null && JSON.stringify(row.settings) !== inForce));
  return [{ key: "as set", name: "as set", about: "", settings, why: null }, ...rows];
}
