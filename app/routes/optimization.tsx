import { useCallback, useMemo } from "react";
import { data, Form, Link, useFetcher, useNavigate, useSearchParams } from "react-router";
import { METRIC_KEYS, METRICS, TRADE_METRICS } from "#core/metrics";
import { isRefused } from "#server/problem";
import { layerOf } from "#server/probes";
import { HeatMap } from "~/charts/heat-map";
import { Button } from "~/design/button";
import { Select } from "~/design/field";
import { decimal, duration, metricLabel, metricText } from "~/design/format";
import { PageHead, Panel, Problems } from "~/design/panel";
import { SortHead } from "~/design/sort-head";
import { Strata } from "~/design/strata";
import { Glance } from "~/optimizations/glance";
import { LuckPanel } from "~/optimizations/luck-panel";
import { Profiles } from "~/optimizations/profiles";
import { Recommendation } from "~/optimizations/recommendation";
import { trialAddress } from "~/optimizations/trial-address";
import { limitWords, methodWords, objectiveWords } from "~/optimizations/words";
import { useRefresh } from "~/shell/jobs";
import type { Route } from "./+types/optimization";

export const meta: Route.MetaFunction = ({ data: page }) => [
  { title: page ? `Optimization of ${page.view.strategyName} · Canyon` : "Optimization · Canyon" },
];

const PAGE = 60;
const TRADE_COLUMNS = ["netProfit", "trades", "profitFactor", "winRate", "averageTrade", "maxDrawdownClosed"];
const COLUMNS = ["netProfit", "trades", "profitFactor", "maxDrawdownPercent", "profitToDrawdown", "sharpe"];

export async function loader({ context, params, request }: Route.LoaderArgs) {
  const { optimizations, probes, strategies } = context.services;
  const id = Number(params.id);
  const view = await optimizations.get(id);
  if (view === null) throw new Response("There is no such optimization.", { status: 404 });
  const search = new URL(request.url).searchParams;
  const sort = search.get("sort") ?? "-fit";
  const offset = Math.max(0, Number(search.get("offset") ?? 0) || 0);
  const names = view.search.vary.map((item) => item.name);
  const metric = search.get("map") ?? (view.search.objective.length > 1 ? "fit" : view.search.objective[0].metric);
  const [page, best, cells, own, layers, judged] = await Promise.all([
    optimizations.trials(id, sort.replace(/^-/, ""), sort.startsWith("-"), offset, PAGE),
    optimizations.best(id),
    names.length === 2 ? optimizations.map(id, names[0], names[1], metric) : Promise.resolve(null),
    strategies.version(view.versionId),
    probes.ofVersion(view.versionId),
    optimizations.judged(id),
  ]);
  const figure = (key: string, missing: string) => (METRIC_KEYS.includes(search.get(key) ?? "") ? search.get(key)! : missing);
  const [first, second] = view.search.objective;
  const figures = [
    figure("x", second?.metric ?? (view.search.figures === "trades" ? "maxDrawdownClosed" : "maxDrawdownPercent")),
    figure("y", first.metric),
  ] as const;
  const standings = judged === null ? [] : await optimizations.standings(id, figures[0], figures[1]);
  return { view, page, best, cells, metric, own: own!.strategy, layers: layers.map(layerOf), judged, figures, standings, sort, offset };
}

export async function action({ context, params, request }: Route.ActionArgs) {
  const { services } = context;
  const view = await services.optimizations.get(Number(params.id));
  if (view === null) throw new Response("There is no such optimization.", { status: 404 });
  const form = await request.formData();
  try {
    const intent = form.get("intent");
    if (intent === "cancel") await services.jobs.cancel(view.job.id);
    if (intent === "pause") await services.jobs.pause(view.job.id);
    if (intent === "resume") await services.jobs.resume(view.job.id);
    if (intent === "luck") return { problems: [], luck: await services.optimizations.luck(view.id) };
    return { problems: [], luck: null };
  } catch (error) {
    if (isRefused(error)) return data({ problems: error.problems, luck: null }, { status: error.status });
    throw error;
  }
}

export default function OptimizationPage({ loaderData, actionData }: Route.ComponentProps) {
  const { view, page, best, cells, metric, own, layers, judged, figures, standings, sort, offset } = loaderData;
  const asked = useFetcher<typeof action>();
  const { job, search, settings } = view;
  const [, setParams] = useSearchParams();
  const navigate = useNavigate();
  const going = job.state === "running" || job.state === "queued";
  useRefresh(going, 700);
  const names = search.vary.map((item) => item.name);
  const [objective] = search.objective;
  const set = (key: string, value: string, empty: string) =>
    setParams(
      (before) => {
        const next = new URLSearchParams(before);
        if (value === empty) next.delete(key);
        else next.set(key, value);
        if (key !== "offset") next.delete("offset");
        return next;
      },
      { replace: true, preventScrollReset: true },
    );
  const address = useCallback((values: Record<string, number>) => trialAddress(view, values), [view]);
  const pick = useCallback(
    (trial: number) => {
      const cell = cells?.find((c) => c[3] === trial);
      if (cell) void navigate(address({ [names[0]]: cell[0], [names[1]]: cell[1] }));
    },
    // names follow from cells
    // eslint-disable-next-line react-hooks/exhaustive-deps
    [cells, address, navigate],
  );
  const opened = useCallback((trial: number) => `/optimizations/${view.id}/trials/${trial}`, [view.id]);
  const ownValue = (name: string) => Number(own.parameters?.find((parameter) => parameter.name === name)?.value ?? NaN);
  const columns = [
    ...new Set([...(search.figures === "trades" ? TRADE_COLUMNS : COLUMNS), ...search.objective.map((wish) => wish.metric)]),
  ];
  const plateau = useMemo(() => new Set(judged?.plateau ?? []), [judged]);
  const head = (key: string, label: string) => (
    <SortHead key={key} column={key} sort={sort} onSort={(next) => set("sort", next, "-fit")}>
      {label}
    </SortHead>
  );
  return (
    <>
      <PageHead
        mark={<Strata layers={layers} width={20} height={52} />}
        title={`Optimization ${view.number}, ${view.strategyName} v${view.versionNumber}`}
        about={[
          settings.markets.map((market) => market.symbol).join(", "),
          `in-sample ${settings.from ?? "from the start"} to ${settings.to ?? "the end"}`,
          methodWords(search),
          objectiveWords(search.objective),
          limitWords(search),
        ]
          .filter((part) => part !== "")
          .join(" · ")}
        actions={
          <>
            {(going || job.state === "paused") && (
              <Form method="post" preventScrollReset className="flex gap-2">
                <Button type="submit" name="intent" value={going ? "pause" : "resume"}>
                  {going ? "Pause" : "Resume"}
                </Button>
                <Button type="submit" name="intent" value="cancel">
                  Cancel
                </Button>
              </Form>
            )}
            <Button asChild>
              <a href={`/optimizations/${view.id}/trials.csv`}>Trials as CSV</a>
            </Button>
            {best && (
              <Button asChild look="primary">
                <Link to={address(best.values)}>Try the best</Link>
              </Button>
            )}
          </>
        }
      />
      <Problems problems={actionData?.problems ?? []} />
      <section aria-label="Progress" className="mb-3 flex items-center gap-6 rounded-[4px] border border-edge bg-sheet px-3.5 py-2.5">
        <span>
          <span className="figure-text text-lg font-semibold" data-done={job.done}>
            {decimal(job.done, 0)}
          </span>{" "}
          of {decimal(job.total, 0)} trials
        </span>
        <span
          role="progressbar"
          aria-label="Trials done"
          aria-valuenow={job.done}
          aria-valuemin={0}
          aria-valuemax={job.total}
          className="block h-2 flex-1 bg-edge"
        >
          <span
            className={`block h-2 ${going || job.state === "paused" ? "bg-ochre" : job.state === "done" ? "bg-moss" : "bg-slate"}`}
            style={{ width: `${(100 * job.done) / Math.max(1, job.total)}%` }}
          />
        </span>
        <span data-state={job.state} className={job.state === "failed" ? "text-clay" : going ? "text-ochre-ink" : ""}>
          {job.state}
        </span>
        <span>
          <b className="figure-text">
            {job.rate !== null ? decimal(job.rate, 0) : job.done > 0 && job.elapsed > 0 ? decimal(job.done / job.elapsed, 0) : "–"}
          </b>{" "}
          a second
        </span>
        <span>
          <b className="figure-text">{duration(job.elapsed)}</b> gone
        </span>
        <span>
          <b className="figure-text">{going ? duration(job.left) : "0:00"}</b> left
        </span>
        <span>
          <b className="figure-text">
            {best === null
              ? "–"
              : search.objective.length > 1
                ? decimal(best.fit, 0)
                : metricText(objective.metric, best.metrics[objective.metric])}
          </b>{" "}
          {search.objective.length > 1 ? "best fit" : "best"} {going ? "so far" : ""}
        </span>
      </section>
      {job.error && <Problems problems={[{ path: "", message: job.error }]} title="The work stopped" />}
      {judged !== null && (
        <div className="mb-3">
          <Recommendation judged={judged} search={search} currency={settings.currency ?? "money"} address={address} number={view.number} />
        </div>
      )}
      <div className={`grid items-start gap-3 ${cells ? "grid-cols-[minmax(0,9fr)_minmax(0,13fr)]" : "grid-cols-1"}`}>
        {cells && (
          <Panel
            title={`${names[0]} against ${names[1]}`}
            aside={
              <Select
                hideLabel
                label="Figure on the map"
                value={metric}
                choices={[
                  ...(search.objective.length > 1 ? [{ value: "fit", label: "Fit" }] : []),
                  ...columns.map((key) => ({ value: key, label: METRICS[key].label })),
                ]}
                onChange={(key) => set("map", key, search.objective.length > 1 ? "fit" : objective.metric)}
                className="w-44"
              />
            }
          >
            {cells.length === 0 ? (
              <p className="py-24 text-center text-ink-soft">The map fills as trials come in.</p>
            ) : (
              <>
                <HeatMap
                  x={names[0]}
                  y={names[1]}
                  metric={metric === "fit" ? "Fit" : METRICS[metric].label}
                  cells={cells}
                  best={best?.number ?? null}
                  recommended={judged?.recommended?.number ?? null}
                  plateau={plateau}
                  own={{ x: ownValue(names[0]), y: ownValue(names[1]) }}
                  onPick={pick}
                  height={430}
                />
                <p className="mt-1 text-sm text-ink-soft">
                  A click on a cell opens its trial as a backtest. Look for a region that does well, not for the single best cell.
                </p>
              </>
            )}
          </Panel>
        )}
        <Panel
          flush
          title="Trials"
          note={`${decimal(page.count, 0)}${going ? " so far" : ""}; open one to see it as a backtest, and save its values as a version there`}
        >
          <div className="max-h-[520px] overflow-auto" tabIndex={0} role="region" aria-label="Trials">
            <table className="w-full border-collapse">
              <thead className="sticky top-0 bg-sheet text-sm text-ink-soft">
                <tr>
                  {head("number", "trial")}
                  {search.objective.length > 1 && head("fit", "fit")}
                  {names.map((name) => head(name, name))}
                  {columns.map((key) =>
                    head(
                      key,
                      metricLabel(key, settings.currency ?? "money")
                        .toLowerCase()
                        .replace(/, [a-z]{3}$/, (x) => x.toUpperCase()),
                    ),
                  )}
                </tr>
              </thead>
              <tbody>
                {judged !== null && offset === 0 && (
                  <tr className="border-t border-edge/60 bg-shade">
                    <th scope="row" className="px-2 py-[3px] text-right font-normal whitespace-nowrap">
                      as it stands
                    </th>
                    {search.objective.length > 1 && <td className="figure-text px-2 text-right">–</td>}
                    {names.map((name) => (
                      <td key={name} className="figure-text px-2 text-right">
                        {Number.isNaN(ownValue(name)) ? "–" : Number(ownValue(name).toPrecision(12))}
                      </td>
                    ))}
                    {columns.map((key) => (
                      <td key={key} className="figure-text px-2 text-right">
                        {metricText(key, judged.baseline[key])}
                      </td>
                    ))}
                  </tr>
                )}
                {page.rows.map((trial) => (
                  <tr
                    key={trial.number}
                    data-trial={trial.number}
                    className={`border-t border-edge/60 hover:bg-shade/50 ${trial.fit === null ? "text-ink-soft" : ""}`}
                    title={trial.fit === null ? "outside the limits, or without a value" : undefined}
                  >
                    <td className="figure-text px-2 py-[3px] text-right whitespace-nowrap">
                      <Link to={address(trial.values)} className="quiet-link" aria-label={`Open trial ${trial.number} as a backtest`}>
                        {trial.number}
                      </Link>
                      {trial.number === best?.number && <span aria-label="the best"> ✕</span>}
                      {trial.number === judged?.recommended?.number && <span aria-label="the middle of the plateau"> ◎</span>}
                    </td>
                    {search.objective.length > 1 && <td className="figure-text px-2 text-right font-semibold">{decimal(trial.fit, 1)}</td>}
                    {names.map((name) => (
                      <td key={name} className="figure-text px-2 text-right">
                        {Number(trial.values[name].toPrecision(12))}
                      </td>
                    ))}
                    {columns.map((key) => (
                      <td
                        key={key}
                        className={`figure-text px-2 text-right ${search.objective.some((wish) => wish.metric === key) ? "font-semibold" : ""}`}
                      >
                        {metricText(key, trial.metrics[key])}
                      </td>
                    ))}
                  </tr>
                ))}
              </tbody>
            </table>
          </div>
          <div className="flex items-center justify-end gap-2 border-t border-edge px-3.5 py-1.5 text-sm text-ink-soft">
            {page.count === 0 ? "none yet" : `${offset + 1} to ${Math.min(page.count, offset + PAGE)} of ${decimal(page.count, 0)}`}
            <Button small look="quiet" disabled={offset === 0} onClick={() => set("offset", String(Math.max(0, offset - PAGE)), "0")}>
              before
            </Button>
            <Button small look="quiet" disabled={offset + PAGE >= page.count} onClick={() => set("offset", String(offset + PAGE), "0")}>
              next
            </Button>
          </div>
        </Panel>
      </div>
      {judged !== null && (
        <div className="mt-3 grid grid-cols-2 items-start gap-3">
          <div className="col-span-2">
            <Glance
              standings={standings}
              figures={figures}
              judged={judged}
              currency={settings.currency ?? "money"}
              number={view.number}
              kept={(key) => search.figures !== "trades" || TRADE_METRICS.has(key)}
              onFigure={(axis, key) => set(axis, key, "")}
              addressOf={opened}
            />
          </div>
          <Profiles profiles={judged.profiles} number={view.number} />
          <LuckPanel
            luck={asked.data?.luck ?? null}
            asking={asked.state !== "idle"}
            problems={asked.data?.problems ?? []}
            onAsk={() => void asked.submit({ intent: "luck" }, { method: "post" })}
            adaptive={search.method?.kind === "evolution" || search.method?.kind === "refine"}
            number={view.number}
          />
        </div>
      )}
    </>
  );
}
