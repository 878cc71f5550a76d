import { useEffect, useMemo, useState } from "react";
import { Form, Link, useFetcher, useSearchParams } from "react-router";
import { isRefused } from "#server/problem";
import { Button } from "~/design/button";
import { Dialog } from "~/design/dialog";
import { Field, Select } from "~/design/field";
import { dateText, decimal, momentText, price } from "~/design/format";
import { Empty, PageHead, Problems } from "~/design/panel";
import { Sparkline } from "~/design/sparkline";
import { useNotice } from "~/design/toast";
import type { Route } from "./+types/markets";

export const meta: Route.MetaFunction = () => [{ title: "Markets · Canyon" }];
export const handle = { keys: [{ keys: "Enter", what: "open the market that has the focus" }] };

export async function loader({ context }: Route.LoaderArgs) {
  const { markets, lists, updates, imports } = context.services;
  const [all, named, choice, recent] = await Promise.all([markets.list(), lists.list(), updates.choice(), imports.recent()]);
  return {
    markets: all.map(({ spec, sources, ...market }) => ({
      ...market,
      tick: spec.tick,
      sources: sources.length,
      fresh: sources.reduce<number | null>((newest, one) => (one.checkedAt === null ? newest : Math.max(newest ?? 0, one.checkedAt)), null),
      problem: sources.find((one) => one.checkProblem !== null)?.checkProblem ?? null,
      served: sources.some((one) => one.served),
    })),
    lists: named.map(({ id, name, symbols }) => ({ id, name, symbols })),
    choice,
    waiting: recent.filter((one) => one.state === "ready").length,
  };
}

export async function action({ context, request }: Route.ActionArgs) {
  const form = await request.formData();
  const { markets, updates } = context.services;
  const nothing = { restored: null, removed: null, problems: [] as { path: string; message: string }[], updating: false, chosen: 0 };
  try {
    switch (form.get("intent")) {
      case "restore":
        return { ...nothing, restored: await markets.restore(Number(form.get("id"))) };
      case "update":
        await updates.start();
        return { ...nothing, updating: true };
      case "choose":
        await updates.choose({ url: String(form.get("url")), every: form.get("every") === "never" ? null : Number(form.get("every")) });
        return { ...nothing, chosen: Date.now() };
      default: {
        const symbol = String(form.get("symbol"));
        const market = await markets.need(symbol);
        await markets.remove(symbol);
        return { ...nothing, removed: { id: market.id, symbol } };
      }
    }
  } catch (error) {
    if (isRefused(error)) return { ...nothing, problems: error.problems };
    throw error;
  }
}

const EVERY: Record<string, string> = {
  never: "by hand only",
  "1": "every minute",
  "5": "every 5 minutes",
  "15": "every 15 minutes",
  "60": "every hour",
  "240": "every 4 hours",
  "1440": "every day",
};

export default function MarketsPage({ loaderData: { markets, lists, choice, waiting } }: Route.ComponentProps) {
  const fetcher = useFetcher<typeof action>();
  const notice = useNotice();
  const [query, setQuery] = useSearchParams();
  const [service, setService] = useState(false);
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
  const chosen = fetcher.data?.chosen;
  useEffect(() => {
    if (chosen) setService(false);
  }, [chosen]);
  // typed here and carried over to the address: the other way round, quick typing would lose letters
  const [find, setFind] = useState(query.get("find") ?? "");
  const list = lists.find((one) => String(one.id) === query.get("list"));
  const shown = useMemo(() => {
    const words = find.toLowerCase().split(/\s+/).filter(Boolean);
    const inList = list === undefined ? null : new Set(list.symbols);
    return markets.filter(
      (market) =>
        (inList === null || inList.has(market.symbol)) &&
        words.every((word) => `${market.symbol} ${market.name} ${market.kind} ${market.sector}`.toLowerCase().includes(word)),
    );
  }, [markets, find, list]);
  const set = (key: string, value: string) => {
    const next = new URLSearchParams(query);
    if (value === "") next.delete(key);
    else next.set(key, value);
    setQuery(next, { replace: true, preventScrollReset: true });
  };
  return (
    <>
      <PageHead
        title="Markets"
        about={`${markets.length} ${markets.length === 1 ? "market" : "markets"}, ${decimal(
          markets.reduce((sum, market) => sum + market.sources, 0),
          0,
        )} sources`}
        actions={
          <>
            {markets.some((market) => market.served) && (
              <>
                <Button disabled={fetcher.state !== "idle"} onClick={() => void fetcher.submit({ intent: "update" }, { method: "post" })}>
                  Update all
                </Button>
                <Button look="quiet" onClick={() => setService(true)}>
                  {EVERY[String(choice.every ?? "never")]}
                </Button>
              </>
            )}
            <Button asChild look="quiet">
              <Link to="/lists">Lists</Link>
            </Button>
            <Button asChild look="quiet">
              <Link to="/calendars">Calendars</Link>
            </Button>
            <Button asChild look="primary">
              <Link to="/markets/import">Import bars…</Link>
            </Button>
          </>
        }
      />
      <Problems problems={service ? [] : (fetcher.data?.problems ?? [])} />
      {waiting > 0 && (
        <p className="mb-3 border-l-4 border-ochre px-3 py-1">
          {waiting} {waiting === 1 ? "import waits" : "imports wait"} to be looked at. <Link to="/imports">See what changed</Link>
        </p>
      )}
      <Dialog
        open={service}
        onOpenChange={setService}
        title="The data service"
        about="Where served sources get new bars, and how often Canyon asks. A simulated one ships with the demo."
      >
        <Form
          method="post"
          className="flex flex-col gap-3"
          onSubmit={(event) => {
            event.preventDefault();
            void fetcher.submit(event.currentTarget);
          }}
        >
          <input type="hidden" name="intent" value="choose" />
          <Problems problems={fetcher.data?.problems ?? []} title="Nothing was changed" />
          <Field label="Address" name="url" defaultValue={choice.url} />
          <Select
            label="Update"
            name="every"
            value={String(choice.every ?? "never")}
            choices={Object.entries(EVERY).map(([value, label]) => ({ value, label }))}
          />
          <Button type="submit" look="primary" className="self-start">
            Save
          </Button>
        </Form>
      </Dialog>
      {markets.length === 0 ? (
        <Empty
          title="No market yet"
          action={
            <Button asChild look="primary">
              <Link to="/markets/import">Import bars…</Link>
            </Button>
          }
        >
          A market is an instrument with its bars. Bring a CSV file of them; strategies, optimizations and portfolios all rest on what is
          here.
        </Empty>
      ) : (
        <>
          <div className="mb-2 flex items-end gap-3">
            <Field
              label="Find"
              type="search"
              value={find}
              onChange={(event) => {
                setFind(event.target.value);
                set("find", event.target.value);
              }}
              placeholder="symbol, name, kind or sector"
              className="w-72"
            />
            <Select
              label="List"
              value={list === undefined ? "all" : String(list.id)}
              choices={[
                { value: "all", label: "all markets" },
                ...lists.map((one) => ({ value: String(one.id), label: `${one.name} (${one.symbols.length})` })),
              ]}
              onChange={(id) => set("list", id === "all" ? "" : id)}
              className="w-64"
            />
            <span className="pb-1.5 text-ink-soft">{shown.length === markets.length ? "" : `${shown.length} of ${markets.length}`}</span>
          </div>
          <div className="overflow-x-auto rounded-[4px] border border-edge bg-sheet">
            <table className="w-full border-collapse">
              <thead className="text-sm text-ink-soft">
                <tr>
                  {["market", "kind or sector", "source", "first bar", "last bar", "fresh as of"].map((head) => (
                    <th key={head} scope="col" className="px-3 py-2 text-left font-normal">
                      {head}
                    </th>
                  ))}
                  <th scope="col" className="px-3 text-right font-normal">
                    bars
                  </th>
                  <th scope="col" className="px-3 text-right font-normal">
                    last close
                  </th>
                  <th scope="col" className="px-3 text-left font-normal">
                    closes
                  </th>
                  <th scope="col">
                    <span className="sr-only">actions</span>
                  </th>
                </tr>
              </thead>
              <tbody>
                {shown.map((market) => (
                  <tr key={market.id} className="border-t border-edge hover:bg-shade/50">
                    <th scope="row" className="max-w-56 truncate px-3 py-2 text-left font-normal">
                      <Link to={`/markets/${market.symbol}`} className="font-semibold no-underline hover:underline">
                        {market.symbol}
                      </Link>{" "}
                      <span className="text-ink-soft">{market.name}</span>
                    </th>
                    <td className="px-3 whitespace-nowrap">{market.sector === "" ? market.kind : market.sector}</td>
                    <td className="px-3 whitespace-nowrap">
                      {market.source}, {market.timeframe}
                      {market.sources > 1 && (
                        <Link to={`/markets/${market.symbol}/sources`} className="ml-1 text-sm text-ink-soft">
                          +{market.sources - 1}
                        </Link>
                      )}
                    </td>
                    <td className="figure-text px-3 whitespace-nowrap">{dateText(market.firstTime)}</td>
                    <td className="figure-text px-3 whitespace-nowrap">{dateText(market.lastTime)}</td>
                    <td className="px-3 text-sm whitespace-nowrap">
                      {market.problem !== null ? (
                        <Link to={`/markets/${market.symbol}/sources`} className="text-clay">
                          not reached
                        </Link>
                      ) : market.fresh !== null ? (
                        <span className="figure-text">{momentText(market.fresh)}</span>
                      ) : (
                        <span className="text-ink-soft">{market.served ? "not yet" : "by file"}</span>
                      )}
                    </td>
                    <td className="figure-text px-3 text-right">{decimal(market.count, 0)}</td>
                    <td className="figure-text px-3 text-right">{price(market.lastClose, market.tick)}</td>
                    <td className="px-3">
                      <Sparkline values={market.outline} label={`Closes of ${market.symbol}`} width={70} />
                    </td>
                    <td className="px-3 text-right whitespace-nowrap">
                      <fetcher.Form method="post">
                        <input type="hidden" name="symbol" value={market.symbol} />
                        <button type="submit" className="quiet-link text-sm text-ink-soft" aria-label={`take out ${market.symbol}`}>
                          take out
                        </button>
                      </fetcher.Form>
                    </td>
                  </tr>
                ))}
                {shown.length === 0 && (
                  <tr>
                    <td colSpan={10} className="px-3 py-6 text-center text-ink-soft">
                      No market fits. Change what you look for, or the list.
                    </td>
                  </tr>
                )}
              </tbody>
            </table>
          </div>
        </>
      )}
    </>
  );
}
