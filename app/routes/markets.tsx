import { Link, useFetcher } from "react-router";
import { useEffect } from "react";
import { Button } from "~/design/button";
import { dateText, decimal, price } from "~/design/format";
import { Empty, PageHead } from "~/design/panel";
import { Sparkline } from "~/design/sparkline";
import { useNotice } from "~/design/toast";
import type { Route } from "./+types/markets";

export const meta: Route.MetaFunction = () => [{ title: "Markets · Canyon" }];
export const handle = { keys: [{ keys: "Enter", what: "open the market that has the focus" }] };

export async function loader({ context }: Route.LoaderArgs) {
  return { markets: await context.services.markets.list() };
}

export async function action({ context, request }: Route.ActionArgs) {
  const form = await request.formData();
  const { markets } = context.services;
  if (form.get("intent") === "restore") return { restored: await markets.restore(Number(form.get("id"))), removed: null };
  const symbol = String(form.get("symbol"));
  const market = await markets.bySymbol(symbol);
  await markets.remove(symbol);
  return { restored: null, removed: { id: market!.id, symbol } };
}

export default function MarketsPage({ loaderData: { markets } }: Route.ComponentProps) {
  const fetcher = useFetcher<typeof action>();
  const notice = useNotice();
  const removed = fetcher.data?.removed;
  useEffect(() => {
    if (removed)
      notice({
        text: `${removed.symbol} was taken out. Stored runs on it stay.`,
        action: { label: "Undo", run: () => void fetcher.submit({ intent: "restore", id: String(removed.id) }, { method: "post" }) },
      });
    // the fetcher is a new object at every render; the removal is what counts
    // eslint-disable-next-line react-hooks/exhaustive-deps
  }, [removed?.id, removed?.symbol, notice]);
  return (
    <>
      <PageHead
        title="Markets"
        about={`${markets.length} ${markets.length === 1 ? "market" : "markets"} with daily bars`}
        actions={
          <Button asChild look="primary">
            <Link to="/markets/import">Import bars…</Link>
          </Button>
        }
      />
      {markets.length === 0 ? (
        <Empty
          title="No market yet"
          action={
            <Button asChild look="primary">
              <Link to="/markets/import">Import bars…</Link>
            </Button>
          }
        >
          A market is an instrument with its bars. Bring a CSV file of daily bars; strategies, optimizations and portfolios all rest on what
          is here.
        </Empty>
      ) : (
        <div className="overflow-x-auto rounded-[4px] border border-edge bg-sheet">
          <table className="w-full border-collapse">
            <thead className="text-sm text-ink-soft">
              <tr>
                {["market", "kind", "source", "first bar", "last bar"].map((head) => (
                  <th key={head} scope="col" className="px-3.5 py-2.5 text-left font-normal">
                    {head}
                  </th>
                ))}
                <th scope="col" className="px-3.5 py-2.5 text-right font-normal">
                  bars
                </th>
                <th scope="col" className="px-3.5 py-2.5 text-right font-normal">
                  last close
                </th>
                <th scope="col" className="px-3.5 py-2.5 text-left font-normal">
                  closes
                </th>
                <th scope="col">
                  <span className="sr-only">actions</span>
                </th>
              </tr>
            </thead>
            <tbody>
              {markets.map((market) => (
                <tr key={market.id} className="border-t border-edge hover:bg-shade/50">
                  <th scope="row" className="px-3.5 py-2.5 text-left font-normal">
                    <Link to={`/markets/${market.symbol}`} className="font-semibold no-underline hover:underline">
                      {market.symbol}
                    </Link>{" "}
                    <span className="text-ink-soft">{market.name}</span>
                  </th>
                  <td className="px-3.5">{market.kind}</td>
                  <td className="px-3.5">
                    {market.source}, {market.timeframe}
                  </td>
                  <td className="figure-text px-3.5">{dateText(market.firstTime)}</td>
                  <td className="figure-text px-3.5">{dateText(market.lastTime)}</td>
                  <td className="figure-text px-3.5 text-right">{decimal(market.count, 0)}</td>
                  <td className="figure-text px-3.5 text-right">{price(market.lastClose, market.spec.tick)}</td>
                  <td className="px-3.5">
                    <Sparkline values={market.outline} label={`Closes of ${market.symbol}`} width={150} />
                  </td>
                  <td className="px-3.5 text-right">
                    <fetcher.Form method="post">
                      <input type="hidden" name="symbol" value={market.symbol} />
                      <button type="submit" className="quiet-link text-sm text-ink-soft" aria-label={`take out ${market.symbol}`}>
                        take out
                      </button>
                    </fetcher.Form>
                  </td>
                </tr>
              ))}
            </tbody>
          </table>
        </div>
      )}
    </>
  );
}
