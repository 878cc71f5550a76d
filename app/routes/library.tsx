import { useEffect } from "react";
import { Link, useFetcher } from "react-router";
import { ArrowDown, ArrowUp } from "lucide-react";
import type { Layer } from "#server/layers";
import { STATUSES } from "#server/status";
import { useAddress } from "~/design/use-address";
import { Button } from "~/design/button";
import { decimal, metricText } from "~/design/format";
import { Empty, PageHead } from "~/design/panel";
import { Sparkline } from "~/design/sparkline";
import { Strata } from "~/design/strata";
import { useNotice } from "~/design/toast";
import type { Route } from "./+types/library";

export const meta: Route.MetaFunction = () => [{ title: "Library · Canyon" }];

export async function loader({ context }: Route.LoaderArgs) {
  const { services } = context;
  const [versions, runs, layers, trials] = await Promise.all([
    services.strategies.newest(),
    services.runs.newest(),
    services.probes.layers(),
    services.strategies.trialCounts(),
  ]);
  return {
    rows: versions.map((version) => {
      const run = runs.get(version.strategyId);
      return {
        id: version.strategyId,
        versionId: version.id,
        name: version.strategyName,
        number: version.number,
        status: version.status,
        timeframe: version.strategy.timeframe,
        market:
          run?.settings.markets.map((market) => market.symbol).join(", ") ??
          version.settings?.markets.map((market) => market.symbol).join(", ") ??
          "",
        layers: layers.get(version.id) ?? [],
        outline: run?.outline ?? [],
        capital: run?.settings.capital ?? 0,
        metrics: run?.metrics.all ?? null,
        trials: trials.get(version.strategyId) ?? 0,
      };
    }),
  };
}

export async function action({ context, request }: Route.ActionArgs) {
  const form = await request.formData();
  const id = Number(form.get("id"));
  const { strategies } = context.services;
  switch (form.get("intent")) {
    case "restore":
      await strategies.restore(id);
      return { removed: null };
    default:
      await strategies.remove(id);
      return { removed: { id, name: String(form.get("name")) } };
  }
}

type Row = Route.ComponentProps["loaderData"]["rows"][number];
const SORTS: Record<string, { head: string; value: (row: Row) => number | string | null }> = {
  name: { head: "strategy", value: (row) => row.name.toLowerCase() },
  market: { head: "market", value: (row) => row.market },
  profitFactor: { head: "profit factor", value: (row) => row.metrics?.profitFactor ?? null },
  profitToDrawdown: { head: "profit ÷ drawdown", value: (row) => row.metrics?.profitToDrawdown ?? null },
  trades: { head: "trades", value: (row) => row.metrics?.trades ?? null },
  trials: { head: "trials", value: (row) => row.trials },
};

export default function LibraryPage({ loaderData: { rows } }: Route.ComponentProps) {
  const { params, set: write } = useAddress();
  const fetcher = useFetcher<typeof action>();
  const notice = useNotice();
  const removed = fetcher.data?.removed;
  useEffect(() => {
    if (removed)
      notice({
        text: `${removed.name} was taken out of the library.`,
        action: { label: "Undo", run: () => void fetcher.submit({ intent: "restore", id: String(removed.id) }, { method: "post" }) },
      });
    // the fetcher is a new object at every render; the removal is what counts
    // eslint-disable-next-line react-hooks/exhaustive-deps
  }, [removed?.id, removed?.name, notice]);
  const find = params.get("find") ?? "";
  const status = params.get("status") ?? "all";
  const sort = params.get("sort") ?? "";
  const set = (key: string, value: string, empty: string) => write(key, value === empty ? null : value);
  const down = sort.startsWith("-");
  const by = SORTS[sort.replace(/^-/, "")];
  const shown = rows.filter(
    (row) => (status === "all" || row.status === status) && `${row.name} ${row.market}`.toLowerCase().includes(find.toLowerCase()),
  );
  if (by)
    shown.sort((a, b) => {
      const [x, y] = [by.value(a), by.value(b)];
      if (x === null || y === null) return Number(x === null) - Number(y === null);
      return (x < y ? -1 : x > y ? 1 : 0) * (down ? -1 : 1);
    });
  const head = (key: string, right = false) => (
    <th
      scope="col"
      aria-sort={by === SORTS[key] ? (down ? "descending" : "ascending") : "none"}
      className={`px-3 py-2.5 font-normal ${right ? "text-right" : "text-left"}`}
    >
      <button
        type="button"
        onClick={() => set("sort", by === SORTS[key] && !down ? `-${key}` : key, "")}
        className={`inline-flex items-center gap-1 hover:text-ink ${by === SORTS[key] ? "font-semibold text-ink" : ""}`}
      >
        {SORTS[key].head}
        {by === SORTS[key] && (down ? <ArrowDown size={12} aria-hidden /> : <ArrowUp size={12} aria-hidden />)}
      </button>
    </th>
  );
  return (
    <>
      <PageHead
        title="Library"
        about={`${rows.length} ${rows.length === 1 ? "strategy" : "strategies"}, ${shown.length} shown`}
        actions={
          <>
            <Button asChild look="quiet">
              <Link to="/runs">Runs</Link>
            </Button>
            <Button asChild look="quiet">
              <Link to="/definitions">Definitions</Link>
            </Button>
            <Button asChild look="quiet">
              <Link to="/run-settings">Run settings</Link>
            </Button>
            <Button asChild look="primary">
              <Link to="/strategies/new">New strategy</Link>
            </Button>
          </>
        }
      />
      {rows.length === 0 ? (
        <Empty
          title="No strategy yet"
          action={
            <Button asChild look="primary">
              <Link to="/strategies/new">New strategy</Link>
            </Button>
          }
        >
          The library holds every strategy with its versions and what probes have said about them. Write the first rule; its result appears
          while you type.
        </Empty>
      ) : (
        <>
          <div className="mb-3 flex items-center gap-3">
            <input
              aria-label="Find by name or market"
              placeholder="find by name or market"
              value={find}
              onChange={(event) => set("find", event.target.value, "")}
              className="w-60 rounded-[4px] border border-edge bg-sheet px-3 py-1.5 placeholder:text-ink-soft"
            />
            {["all", ...STATUSES].map((name) => {
              const count = name === "all" ? rows.length : rows.filter((row) => row.status === name).length;
              return (
                <button
                  key={name}
                  type="button"
                  aria-pressed={status === name}
                  onClick={() => set("status", name, "all")}
                  className="rounded-[4px] px-2.5 py-1 text-ink-soft hover:text-ink aria-pressed:bg-ink aria-pressed:text-on-ink"
                >
                  {name} {count}
                </button>
              );
            })}
          </div>
          <div className="overflow-x-auto rounded-[4px] border border-edge bg-sheet">
            <table className="w-full border-collapse">
              <thead className="text-sm text-ink-soft">
                <tr>
                  <th scope="col" className="py-2.5 pl-3.5 text-left font-normal">
                    evidence
                  </th>
                  {head("name")}
                  {head("market")}
                  <th scope="col" className="px-3 py-2.5 text-left font-normal">
                    timeframe
                  </th>
                  <th scope="col" className="px-3 py-2.5 text-left font-normal">
                    status
                  </th>
                  <th scope="col" className="px-3 py-2.5 text-left font-normal">
                    equity of the saved run
                  </th>
                  {head("profitFactor", true)}
                  {head("profitToDrawdown", true)}
                  {head("trades", true)}
                  {head("trials", true)}
                  <th scope="col">
                    <span className="sr-only">actions</span>
                  </th>
                </tr>
              </thead>
              <tbody>
                {shown.map((row) => (
                  <tr key={row.id} className="border-t border-edge hover:bg-shade/50">
                    <td className="py-2 pl-3.5">
                      <Strata layers={row.layers} />
                    </td>
                    <th scope="row" className="px-3 text-left font-normal">
                      <Link to={`/strategies/${row.id}`} className="font-semibold no-underline hover:underline">
                        {row.name}
                      </Link>{" "}
                      <span className="text-ink-soft">v{row.number}</span>
                    </th>
                    <td className="px-3">{row.market || "–"}</td>
                    <td className="px-3">{row.timeframe}</td>
                    <td className="px-3">
                      <Link
                        to={`/strategies/${row.id}/evidence#status`}
                        className="quiet-link"
                        aria-label={`Status of ${row.name}: ${row.status}; to what it rests on`}
                      >
                        {row.status}
                      </Link>
                    </td>
                    <td className="px-3">
                      {row.outline.length > 0 ? (
                        <Sparkline values={row.outline} base={row.capital} label={`Equity of ${row.name}'s saved run`} />
                      ) : (
                        <span className="text-ink-soft">no run saved yet</span>
                      )}
                    </td>
                    <td className="figure-text px-3 text-right">
                      {row.metrics ? metricText("profitFactor", row.metrics.profitFactor) : "–"}
                    </td>
                    <td className="figure-text px-3 text-right">
                      {row.metrics ? metricText("profitToDrawdown", row.metrics.profitToDrawdown) : "–"}
                    </td>
                    <td className="figure-text px-3 text-right">{row.metrics ? metricText("trades", row.metrics.trades) : "–"}</td>
                    <td className="figure-text px-3 text-right">{decimal(row.trials, 0)}</td>
                    <td className="px-3 text-right">
                      <button
                        type="button"
                        className="quiet-link text-sm text-ink-soft"
                        aria-label={`take out ${row.name}`}
                        onClick={() => void fetcher.submit({ intent: "remove", id: String(row.id), name: row.name }, { method: "post" })}
                      >
                        take out
                      </button>
                    </td>
                  </tr>
                ))}
              </tbody>
            </table>
            {shown.length === 0 && <p className="border-t border-edge px-3.5 py-6 text-ink-soft">No strategy fits “{find || status}”.</p>}
          </div>
          <Legend />
        </>
      )}
    </>
  );
}

function Legend() {
  const plain = { overruled: false, sealed: false, weight: 1 };
  const entries: Pick<Layer, "name" | "state" | "overruled" | "sealed" | "weight">[] = [
    { ...plain, name: "passed", state: "passed" },
    { ...plain, name: "failed", state: "failed" },
    { ...plain, name: "failed, overruled", state: "failed", overruled: true },
    { ...plain, name: "out of date", state: "out of date" },
    { ...plain, name: "untested", state: "untested" },
    { ...plain, name: "sealed", state: "untested", sealed: true },
  ];
  return (
    <p className="mt-3 flex items-center justify-end gap-5 text-sm text-ink-soft">
      {entries.map((layer) => (
        <span key={layer.name} className="inline-flex items-center gap-1.5">
          <Strata layers={[layer]} width={16} height={10} /> {layer.name}
        </span>
      ))}
    </p>
  );
}
