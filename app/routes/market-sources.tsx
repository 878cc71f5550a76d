import { Link, useFetcher } from "react-router";
import { isRefused } from "#server/problem";
import { Button } from "~/design/button";
import { dateText, decimal, momentText, price } from "~/design/format";
import { Panel, Problems } from "~/design/panel";
import { Sparkline } from "~/design/sparkline";
import { MarketHead } from "~/markets/head";
import { SealPanel } from "~/markets/seal-panel";
import type { Route } from "./+types/market-sources";

export const meta: Route.MetaFunction = ({ params }) => [{ title: `${params.symbol}, sources · Canyon` }];

export async function loader({ context, params }: Route.LoaderArgs) {
  const { markets, seals, sources } = context.services;
  const market = await markets.bySymbol(params.symbol);
  if (market === null) throw new Response(`There is no market ${params.symbol}.`, { status: 404 });
  const changes = (
    await Promise.all(
      market.sources.map(async (source) =>
        (await sources.changes(source.id)).map((change) => ({
          ...change,
          source: `${source.name}, ${source.timeframe}`,
          newest: change.rawAfter === source.rawHash && change.rawBefore !== null && change.rawBefore !== change.rawAfter,
        })),
      ),
    )
  )
    .flat()
    .sort((a, b) => b.id - a.id)
    .slice(0, 100);
  const [sealed, openings] = await Promise.all([seals.all(), seals.openings(market.id)]);
  const corrected = await Promise.all(market.sources.map(async (source) => (await sources.leftOut(source.id)).size > 0));
  return {
    market,
    changes,
    corrected: market.sources.filter((_, k) => corrected[k]).map((source) => source.id),
    seal: sealed.get(market.id) ?? null,
    openings,
  };
}

export async function action({ context, request }: Route.ActionArgs) {
  const form = await request.formData();
  const { markets, seals, sources, updates } = context.services;
  try {
    if (form.get("intent") === "seal") {
      const opening = form.has("reason") ? { reason: String(form.get("reason")), name: String(form.get("name")) } : null;
      await seals.seal(await markets.need(String(form.get("symbol"))), String(form.get("from")), opening);
    }
    if (form.get("intent") === "default") await sources.makeDefault(Number(form.get("id")));
    if (form.get("intent") === "revert") await sources.revert(Number(form.get("id")));
    if (form.get("intent") === "update") await updates.start(String(form.get("symbol")));
    return { problems: [] };
  } catch (error) {
    if (isRefused(error)) return { problems: error.problems };
    throw error;
  }
}

export default function SourcesPage({ loaderData: { market, changes, corrected, seal, openings } }: Route.ComponentProps) {
  const fetcher = useFetcher<typeof action>();
  const pairs = market.sources.flatMap((a, i) =>
    market.sources.slice(i + 1).flatMap((b) => (a.timeframe === b.timeframe ? [{ a, b }] : [])),
  );
  const { tick } = market.spec;
  return (
    <>
      <MarketHead
        market={market}
        actions={
          <>
            {market.sources.some((source) => source.served) && (
              <Button
                disabled={fetcher.state !== "idle"}
                onClick={() => void fetcher.submit({ intent: "update", symbol: market.symbol }, { method: "post" })}
              >
                Update now
              </Button>
            )}
            <Button asChild look="primary">
              <Link to={`/markets/import?market=${market.symbol}`}>Import bars…</Link>
            </Button>
          </>
        }
      />
      <Problems problems={fetcher.data?.problems ?? []} />
      <Panel title="Where the bars come from" note="one source counts unless another is asked for" flush>
        <table className="w-full border-collapse">
          <thead className="text-sm text-ink-soft">
            <tr>
              {["source", "bars of", "first", "last", "fresh as of", "closes"].map((head) => (
                <th key={head} scope="col" className="px-3.5 py-2 text-left font-normal">
                  {head}
                </th>
              ))}
              <th scope="col" className="px-3.5 text-right font-normal">
                bars
              </th>
              <th scope="col" className="px-3.5 text-right font-normal">
                last close
              </th>
              <th scope="col">
                <span className="sr-only">actions</span>
              </th>
            </tr>
          </thead>
          <tbody>
            {market.sources.map((source) => (
              <tr key={source.id} className="border-t border-edge">
                <th scope="row" className="px-3.5 py-2 text-left font-normal">
                  <Link to={`/markets/${market.symbol}?source=${source.id}`} className="font-semibold no-underline hover:underline">
                    {source.name}
                  </Link>
                  {corrected.includes(source.id) && <span className="text-ochre-ink"> · corrected</span>}
                </th>
                <td className="figure-text px-3.5">{source.timeframe}</td>
                <td className="figure-text px-3.5">{dateText(source.firstTime)}</td>
                <td className="figure-text px-3.5">{dateText(source.lastTime)}</td>
                <td className="px-3.5">
                  {source.checkedAt === null ? (source.served ? "not asked yet" : "by file") : momentText(source.checkedAt)}
                  {source.checkProblem !== null && <span className="block max-w-60 text-xs text-clay">{source.checkProblem}</span>}
                </td>
                <td className="px-3.5">
                  <Sparkline values={source.outline} label={`Closes by ${source.name}`} width={120} />
                </td>
                <td className="figure-text px-3.5 text-right">{decimal(source.count, 0)}</td>
                <td className="figure-text px-3.5 text-right">{price(source.lastClose, tick)}</td>
                <td className="px-3.5 text-right text-sm">
                  {source.isDefault ? (
                    "the default"
                  ) : (
                    <button
                      type="button"
                      className="quiet-link"
                      onClick={() => void fetcher.submit({ intent: "default", id: String(source.id) }, { method: "post" })}
                    >
                      make it the default
                    </button>
                  )}
                </td>
              </tr>
            ))}
          </tbody>
        </table>
      </Panel>
      <Panel title="Set two beside each other" className="mt-3">
        {pairs.length === 0 ? (
          <p className="text-ink-soft">
            A second source with bars of the same timeframe makes a comparison possible: import one under another name.
          </p>
        ) : (
          <ul className="flex flex-wrap gap-x-6 gap-y-1">
            {pairs.map(({ a, b }) => (
              <li key={`${a.id} ${b.id}`}>
                <Link to={`/markets/${market.symbol}/compare?a=${a.id}&b=${b.id}`}>
                  {a.name} and {b.name}, {a.timeframe}
                </Link>
              </li>
            ))}
          </ul>
        )}
      </Panel>
      <SealPanel key={seal} symbol={market.symbol} seal={seal} openings={openings} />
      <Panel title="What happened to them" note="newest first; nothing is changed without a line here" className="mt-3" flush>
        <table className="w-full border-collapse">
          <thead className="text-sm text-ink-soft">
            <tr>
              {["when, UTC", "source", "what", "note"].map((head) => (
                <th key={head} scope="col" className="px-3.5 py-2 text-left font-normal">
                  {head}
                </th>
              ))}
              {["added", "changed", "rejected"].map((head) => (
                <th key={head} scope="col" className="px-3.5 text-right font-normal">
                  {head}
                </th>
              ))}
              <th scope="col">
                <span className="sr-only">undo</span>
              </th>
            </tr>
          </thead>
          <tbody>
            {changes.map((change) => (
              <tr key={change.id} className="border-t border-edge">
                <td className="figure-text px-3.5 py-1.5">{momentText(change.at)}</td>
                <td className="px-3.5">{change.source}</td>
                <td className="px-3.5">{change.what}</td>
                <td className="px-3.5 text-ink-soft">{change.note}</td>
                <td className="figure-text px-3.5 text-right">{decimal(change.added, 0)}</td>
                <td className="figure-text px-3.5 text-right">{decimal(change.changed, 0)}</td>
                <td className="figure-text px-3.5 text-right">{decimal(change.rejected, 0)}</td>
                <td className="px-3.5 text-right text-sm">
                  {change.newest && (
                    <button
                      type="button"
                      className="quiet-link"
                      onClick={() => void fetcher.submit({ intent: "revert", id: String(change.id) }, { method: "post" })}
                    >
                      take it back
                    </button>
                  )}
                </td>
              </tr>
            ))}
          </tbody>
        </table>
      </Panel>
    </>
  );
}
