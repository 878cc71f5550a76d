import { parseDate } from "#core/bars";
import { prepareRun, type PreparedRun } from "#core/engine";
import { readSettings, type Settings } from "#core/documents";
import { ordersDocument, sheetWithChanges, type OrdersDocument, type SheetWithChanges } from "#core/orders";
import { fitWeights, portfolioFingerprint, prepareMembers, withWeights } from "#core/portfolio";
import { prepareBacktest, runFingerprint } from "#core/runs";
import { settingsMarket } from "./market-source";
import type { MarketView } from "./markets";
import { memberOf } from "./portfolios";
import { SURVIVING } from "./portfolio-pool";
import { isRefused, Refused } from "./problem";
import type { Services } from "./services";

/** What a survivor or a portfolio asks for in the next session. */
export interface AskedSheet extends SheetWithChanges {
  kind: "survivor" | "portfolio";
  id: number;
  name: string;
  path: string;
  fingerprint: string;
  /** markets that an exclusion list had kept out of its search; the sheet has them */
  taken: string[];
}

export interface OrderSheets {
  sheets: AskedSheet[];
  /** what can't be asked, and why */
  left: { name: string; path: string; why: string }[];
  /** markets of the sheets whose newest bars are sealed: their sheet is for the session after the last bar before the seal */
  sealed: { symbol: string; from: string }[];
}

/** Settings as they would be traded now: the markets' newest bars that count, up to a date (null: the last), nothing closed by hand. */
function asOfNow(
  settings: Settings,
  bySymbol: ReadonlyMap<string, MarketView>,
  timeframe: string,
  to: string | null,
  more: readonly string[] = [],
): unknown {
  const symbols = [...settings.markets.map(({ symbol }) => symbol), ...more];
  const gone = symbols.filter((symbol) => !bySymbol.has(symbol));
  if (gone.length > 0) throw new Refused([{ path: "markets", message: `${gone.join(", ")} was taken out of the markets` }]);
  return { ...settings, markets: symbols.map((symbol) => settingsMarket(bySymbol.get(symbol)!, timeframe)), to, closeAtEnd: false };
}

/** Sheets of all survivors and portfolios: after the last bar, or as they were after an earlier date. Those with orders come first. */
export async function orderSheets(services: Services, on: string | null = null): Promise<OrderSheets> {
  if (on !== null && parseDate(on) === null) throw new Refused([{ path: "on", message: `“${on}” is no date, YYYY-MM-DD` }]);
  const [versions, portfolios, markets, runs, seals] = await Promise.all([
    services.strategies.newest(),
    services.portfolios.list(),
    services.markets.list(),
    services.runs.newest(),
    services.seals.all(),
  ]);
  const bySymbol = new Map(markets.map((market) => [market.symbol, market]));
  const out: OrderSheets = { sheets: [], left: [], sealed: [] };
  const attempt = async (name: string, path: string, make: () => Promise<AskedSheet>) => {
    try {
      out.sheets.push(await make());
    } catch (error) {
      if (!isRefused(error)) throw error;
      out.left.push({ name, path, why: error.message });
    }
  };
  for (const version of versions) {
    if (!SURVIVING.includes(version.status)) continue;
    const path = `/strategies/${version.strategyId}`;
    await attempt(version.strategyName, path, async () => {
      const settings = runs.get(version.strategyId)?.settings ?? version.settings;
      if (settings === null)
        throw new Refused([{ path: "settings", message: "it was never run, so its markets and its account are not known" }]);
      const taken = await keptOut(services, version.strategyId, settings, bySymbol);
      const given = asOfNow(settings, bySymbol, version.strategy.timeframe, on, taken);
      const own = readSettings(await services.series.complete(given, [version.strategy])).value!;
      const bars = await services.bars.all(own.markets.map((market) => market.bars));
      const { run, problems } = prepareBacktest(version.strategy, own, bars);
      if (run === null) throw new Refused(problems);
      return {
        ...sheetWithChanges(run),
        kind: "survivor",
        id: version.strategyId,
        name: `${version.strategyName}, version ${version.number}`,
        path,
        fingerprint: runFingerprint(version.strategy, own, bars),
        taken,
      };
    });
  }
  for (const { id, name } of portfolios)
    await attempt(name, `/portfolios/${id}`, async () => ({
      ...(await portfolioSheet(services, id, bySymbol, on)),
      kind: "portfolio",
      id,
      name,
      path: `/portfolios/${id}`,
      taken: [],
    }));
  const rank = ({ orders, positions }: AskedSheet) => (orders.length > 0 ? 0 : positions.length > 0 ? 1 : 2);
  out.sheets.sort((a, b) => rank(a) - rank(b));
  const asked = new Set(out.sheets.flatMap((sheet) => sheet.markets.map(({ symbol }) => symbol)));
  out.sealed = markets.flatMap((market) => (asked.has(market.symbol) && seals.has(market.id) ? [{ symbol: market.symbol, from: seals.get(market.id)! }] : [])); // prettier-ignore
  return out;
}

/** Markets that exclusion lists took out of a strategy's searches and that its account does not have. */
async function keptOut(
  services: Services,
  strategyId: number,
  settings: Settings,
  bySymbol: ReadonlyMap<string, MarketView>,
): Promise<string[]> {
  const held = new Set(settings.markets.map(({ symbol }) => symbol));
  const searches = await services.optimizations.list(strategyId);
  const out = searches.flatMap(({ origin }) => origin.without?.symbols ?? []).filter((symbol) => !held.has(symbol) && bySymbol.has(symbol));
  return [...new Set(out)].sort();
}

async function portfolioSheet(services: Services, id: number, bySymbol: ReadonlyMap<string, MarketView>, on: string | null) {
  const { document } = (await services.portfolios.get(id))!;
  const versions = await Promise.all(document.members.map(({ versionId }) => services.strategies.version(versionId)));
  const lost = document.members.find((_, m) => versions[m] === null);
  if (lost !== undefined) throw new Refused([{ path: "members", message: `the version of “${lost.name}” does not exist any more` }]);
  const given = asOfNow(document.settings, bySymbol, versions[0]!.strategy.timeframe, on);
  const settings = readSettings(
    await services.series.complete(
      given,
      versions.map((version) => version!.strategy),
    ),
  ).value!;
  const bars = await services.bars.all(settings.markets.map((market) => market.bars));
  const bare = document.members.map((member, m) => memberOf(member, versions[m]!));
  const fitted = fitWeights(bare, document.weighting, settings, bars);
  if (fitted.value === null) throw new Refused(fitted.problems);
  const members = withWeights(bare, fitted.value);
  const prepared = prepareMembers(members, settings, bars);
  if (prepared.value === null) throw new Refused(prepared.problems);
  return {
    ...sheetWithChanges(runOrRefuse(prepareRun(prepared.value.runMembers, settings, prepared.value.markets))),
    fingerprint: portfolioFingerprint(members, settings, bars),
  };
}

function runOrRefuse({ value, problems }: ReturnType<typeof prepareRun>): PreparedRun {
  if (value === null) throw new Refused(problems);
  return value;
}

/** Sheets as the open document. */
export const sheetsDocument = ({ sheets }: OrderSheets): OrdersDocument =>
  ordersDocument(sheets.map(({ kind: _kind, id: _id, path: _path, taken: _taken, ...sheet }) => sheet));
