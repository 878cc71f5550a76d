import { memo, useCallback, useMemo } from "react";
import { data, Link, useFetcher, useNavigate, type ShouldRevalidateFunctionArgs } from "react-router";
import { METRIC_KEYS } from "#core/metrics";
import { keptFigures } from "#core/optimize";
import { isRefused } from "#server/problem";
import { layerOf } from "#server/layers";
import { reachedByLuck } from "#core/optimize";
import { within, type TrialView } from "#server/trials";
import { Button } from "~/design/button";
import { decimal, metricLabel, metricText } from "~/design/format";
import { OrderedChoice, useChoice } from "~/design/ordered-choice";
import { PageHead, Panel, Problems } from "~/design/panel";
import { Strata } from "~/design/strata";
import { useAddress } from "~/design/use-address";
import { BestSoFar } from "~/optimizations/best-so-far";
import { FilterBar } from "~/optimizations/filter-bar";
import { Glance } from "~/optimizations/glance";
import { LinesPanel } from "~/optimizations/lines-panel";
import { LuckPanel } from "~/optimizations/luck-panel";
import { mapChoice, MapPanel } from "~/optimizations/map-panel";
import { ownValues } from "~/optimizations/own-values";
import { PermutedPanel } from "~/optimizations/permuted-panel";
import { picksOf, useTrialKeys, writePicks } from "~/optimizations/picks";
import { Profiles } from "~/optimizations/profiles";
import { ProgressBar } from "~/optimizations/progress-bar";
import { Recommendation } from "~/optimizations/recommendation";
import { trialAddress } from "~/optimizations/trial-address";
import { askedPart, columnsOf, filtersOf, firstColumns, LINES, questionOf, writeFilters } from "~/optimizations/trial-question";
import { TrialTable } from "~/optimizations/trial-table";
import { ROWS } from "~/optimizations/use-trial-rows";
import { limitWords, marketWords, methodWords, objectiveWords, originWords } from "~/optimizations/words";
import type { KeyHint } from "~/shell/keys";
import { useRefresh } from "~/shell/jobs";
import type { Route } from "./+types/optimization";

export const meta: Route.MetaFunction = ({ data: page }) => [
  { title: page ? `Optimization of ${page.view.strategyName} · Canyon` : "Optimization · Canyon" },
];

export const handle: { keys: KeyHint[] } = {
  keys: [
    { keys: "↑ ↓", what: "walk through the trials" },
    { keys: "Space", what: "pick the trial, or let it go" },
    { keys: "Enter", what: "open the trial as a backtest" },
    { keys: "C", what: "set the picked trials beside each other" },
    { keys: "T", what: "test the picked trials again more finely" },
  ],
};

/** Milliseconds that a page waits for what is computed beside it. */
const WAIT = 400;

export async function loader({ context, params, request }: Route.LoaderArgs) {
  const { jobs, optimizations, preferences, probes, strategies, studies, trials } = context.services;
  const id = Number(params.id);
  const view = await optimizations.get(id);
  if (view === null) throw new Response("There is no such optimization.", { status: 404 });
  const address = new URL(request.url).searchParams;
  const names = view.search.vary.map((item) => item.name);
  const [judged, version, layers, choices, axes, looks] = await Promise.all([
    trials.judgedWithin(view, WAIT),
    strategies.version(view.versionId),
    probes.ofVersion(view.versionId),
    preferences.choices(),
    trials.axesOf(view),
    studies.of(id),
  ]);
  const columns = columnsOf(view.search, choices.trialColumns);
  const question = questionOf(address, columns, names);
  const own = ownValues(version!.strategy);
  const several = view.search.objective.length > 1;
  const kept = keptFigures(view.search);
  const metrics = METRIC_KEYS.filter((key) => kept.has(key));
  const asked = mapChoice(address, axes, several ? "fit" : view.search.objective[0].metric, judged?.recommended?.values ?? own);
  const choice = asked === null || kept.has(asked.key) || (several && asked.key === "fit") ? asked : { ...asked, key: "fit" };
  const figure = (key: string, missing: string) => (kept.has(address.get(key) ?? "") ? address.get(key)! : missing);
  const [first, second] = view.search.objective;
  const figures = [
    figure(
      "x",
      second?.metric ??
        (kept.has("maxDrawdownPercent") ? "maxDrawdownPercent" : kept.has("maxDrawdownClosed") ? "maxDrawdownClosed" : "trades"),
    ),
    figure("y", first.metric),
  ] as const;
  const lined = [...new Set([first.metric, ...figures])];
  const best = await trials.best(view, columns);
  const going = view.job.state === "running" || view.job.state === "queued" || view.job.state === "paused";
  const [page, map, glance, curves, lines] = await Promise.all([
    trials.page(view, question, 0, ROWS),
    choice === null ? null : trials.map(view, choice.x, choice.y, choice.key, choice.others),
    judged === null ? null : trials.glance(view, figures[0], figures[1]),
    going && best !== null ? within(trials.curvesOf(view, [best.values]), WAIT) : null,
    judged !== null && names.length > 2 ? trials.lines(view, { ...question, filters: [], columns: lined }, LINES) : null,
  ]);
  const [objective] = view.search.objective;
  const reached =
    best === null || looks.length === 0 || looks[0].best.length === 0
      ? null
      : reachedByLuck(looks[0].best, (await trials.one(view, best.number))!.metrics[objective.metric]!, objective.want);
  return {
    view,
    judged,
    own,
    layers: layers.map(layerOf),
    axes,
    metrics,
    columns,
    remembered: choices.trialColumns,
    page,
    best,
    choice,
    map,
    figures,
    glance,
    curve: curves?.[0] ?? null,
    lines,
    lined,
    asked: askedPart(address),
    looks,
    reached,
    width: jobs.width,
  };
}

export async function action({ context, params, request }: Route.ActionArgs) {
  const { services } = context;
  const view = await services.optimizations.get(Number(params.id));
  if (view === null) throw new Response("There is no such optimization.", { status: 404 });
  const form = await request.formData();
  const number = (key: string) => Number(String(form.get(key) ?? "").trim() || NaN);
  try {
    const intent = form.get("intent");
    if (intent === "cancel") await services.jobs.cancel(view.job.id);
    if (intent === "pause") await services.jobs.pause(view.job.id);
    if (intent === "resume") await services.jobs.resume(view.job.id);
    if (intent === "luck") return { problems: [], luck: await services.lucks.of(view) };
    if (intent === "permuted")
      await services.studies.permuted(view, { repetitions: number("repetitions"), days: number("days"), seed: number("seed") });
    if (intent === "stopStudy") await services.jobs.cancel(number("job"));
    return { problems: [], luck: null };
  } catch (error) {
    if (isRefused(error)) return data({ problems: error.problems, luck: null }, { status: error.status });
    throw error;
  }
}

const FIT = "fit";
const NONE: { path: string; message: string }[] = [];

// what the table's order and filters do not change is not drawn anew with them
const NameMap = memo(MapPanel);
const Overview = memo(Glance);
const Middle = memo(Recommendation);
const Curves = memo(Profiles);
const Luck = memo(LuckPanel);
const Permuted = memo(PermutedPanel);

/** Keys of the address that the table looks after by itself. */
const OWN_KEYS = ["sort", "f", "show", "pick"];

/** What sorts, filters and picks leaves the rest of the page as it is, however many trials there are. */
export function shouldRevalidate({ currentUrl, nextUrl, defaultShouldRevalidate }: ShouldRevalidateFunctionArgs): boolean {
  if (currentUrl.pathname !== nextUrl.pathname || currentUrl.search === nextUrl.search) return defaultShouldRevalidate;
  const rest = (url: URL) => {
    const params = new URLSearchParams(url.search);
    for (const key of OWN_KEYS) params.delete(key);
    return params.toString();
  };
  return rest(currentUrl) === rest(nextUrl) ? false : defaultShouldRevalidate;
}

export default function OptimizationPage({ loaderData, actionData }: Route.ComponentProps) {
  const {
    view,
    judged,
    own,
    layers,
    axes,
    metrics,
    columns,
    page,
    best,
    choice,
    map,
    figures,
    glance,
    curve,
    lines,
    lined,
    looks,
    reached,
    width,
  } = loaderData;
  const { job, search, settings } = view;
  const luck = useFetcher<typeof action>();
  const { params, set } = useAddress();
  const navigate = useNavigate();
  const going = job.state === "running" || job.state === "queued";
  const studying = looks.some((study) => study.job.state === "running" || study.job.state === "queued");
  useRefresh(going || studying || (job.state === "done" && judged === null), job.done > 20_000 ? 2000 : 700);
  const names = useMemo(() => axes.map(({ name }) => name), [axes]);
  const [objective] = search.objective;
  const several = search.objective.length > 1;
  const currency = settings.currency ?? "money";
  const { choose } = useChoice("trialColumns", loaderData.remembered, metrics, firstColumns(search));
  const opened = useCallback((trial: number) => `/optimizations/${view.id}/trials/${trial}`, [view.id]);
  const open = useCallback((trial: number) => void navigate(opened(trial)), [navigate, opened]);
  const address = useCallback((trial: Pick<TrialView, "number" | "values">) => trialAddress(view, trial.values, trial.number), [view]);
  const filters = useMemo(() => filtersOf(params.get("f")), [params]);
  const [peak, middle] = [judged?.peak?.number ?? null, judged?.recommended?.number ?? null];
  const marks = useMemo(() => {
    const out = new Map<number, { sign: string; name: string }>();
    if (middle !== null) out.set(middle, { sign: "◎", name: "the middle of the plateau" });
    const top = peak ?? best?.number ?? null;
    if (top !== null)
      out.set(top, top === middle ? { sign: "✕ ◎", name: "the best, and the middle of the plateau" } : { sign: "✕", name: "the best" });
    return out;
  }, [peak, middle, best?.number]);
  const marked = useMemo(() => new Map([...marks].map(([number, { name }]) => [number, name])), [marks]);
  const picked = useMemo(() => picksOf(params), [params]);
  const pick = useCallback(
    (number: number) => set("pick", writePicks(picksOf(new URLSearchParams(window.location.search)), number)),
    [set],
  );
  const chosen = picked.size > 0 ? [...picked] : [...new Set([peak, middle].filter((one) => one !== null))];
  const compared = `/optimizations/${view.id}/compare?trials=${chosen.join(",")}`;
  useTrialKeys(
    chosen.length > 0,
    () => void navigate(compared),
    () => void navigate(`${compared}&finer=1`),
  );
  const baseline = useMemo(() => (judged === null ? null : { values: own, metrics: judged.baseline }), [judged, own]);
  const label = (key: string) => metricLabel(key, currency);
  const mapped = useMemo(
    () => [...(several ? [FIT] : []), ...columns, ...metrics.filter((key) => !columns.includes(key))],
    [several, columns, metrics],
  );
  const kept = useCallback((key: string) => metrics.includes(key), [metrics]);
  const onFigure = useCallback((axis: "x" | "y", key: string) => set(axis, key), [set]);
  const luckMarks = useMemo(() => ({ peak, middle }), [peak, middle]);
  const { submit } = luck;
  const ask = useCallback(() => void submit({ intent: "luck" }, { method: "post" }), [submit]);
  return (
    <>
      <PageHead
        mark={<Strata layers={layers} width={20} height={52} />}
        title={`Optimization ${view.number}, ${view.strategyName} v${view.versionNumber}`}
        about={[
          marketWords(view),
          `in-sample ${settings.from ?? "from the start"} to ${settings.to ?? "the end"}`,
          methodWords(search),
          objectiveWords(search.objective),
          limitWords(search),
          originWords(view),
        ]
          .filter((part) => part !== "")
          .join(" · ")}
        actions={
          <>
            <Button asChild look="quiet">
              <Link to={`/optimizations/new?like=${view.id}`}>Run again…</Link>
            </Button>
            <Button asChild look="quiet">
              <Link to={`/optimizations/beside?a=${view.id}`}>Beside another…</Link>
            </Button>
            <Button asChild>
              <a href={`/optimizations/${view.id}/trials.csv`}>Trials as CSV</a>
            </Button>
            {best && (
              <Button asChild look="primary">
                <Link to={address(best)}>Try the best</Link>
              </Button>
            )}
          </>
        }
      />
      <Problems problems={actionData?.problems ?? []} />
      <ProgressBar
        job={job}
        width={width}
        best={{
          value: best === null ? "–" : several ? decimal(best.fit, 0) : metricText(objective.metric, best.metrics[objective.metric]),
          name: `${several ? "best fit" : "best"}${going ? " so far" : ""}`,
        }}
      />
      {job.error && <Problems problems={[{ path: "", message: job.error }]} title="The work stopped" />}
      {(going || job.state === "paused") && best !== null && curve !== null && (
        <BestSoFar best={best} curve={curve} capital={settings.capital} columns={columns} address={address(best)} />
      )}
      {job.state === "done" && judged === null && <p className="mb-3 text-ink-soft">The plateau is being looked for …</p>}
      {judged !== null && (
        <div className="mb-3">
          <Middle judged={judged} search={search} currency={currency} address={address} number={view.number} />
        </div>
      )}
      <div className={`grid items-start gap-3 ${map ? "grid-cols-[minmax(0,9fr)_minmax(0,13fr)]" : "grid-cols-1"}`}>
        {map && choice && (
          <NameMap
            axes={axes}
            choice={choice}
            map={map}
            metrics={mapped}
            currency={currency}
            best={best?.number ?? null}
            recommended={middle}
            own={own}
            onSet={set}
            onPick={open}
          />
        )}
        <Panel
          flush
          title="Trials"
          note={
            going ? "so far; open one to see it as a backtest" : "open one to see it as a backtest, and save its values as a version there"
          }
          aside={
            <OrderedChoice
              title="Figures in the table"
              about="Remembered for all optimizations. What the objective looks at always stands there."
              items={metrics.map((key) => ({ key, name: label(key) }))}
              chosen={columns}
              onChoose={choose}
              label="choose figures…"
            />
          }
        >
          <FilterBar
            filters={filters}
            onChange={(next) => set("f", writeFilters(next))}
            standing={params.get("show") ?? "all"}
            onStanding={(standing) => set("show", standing)}
            names={names}
            metrics={metrics}
            currency={currency}
          />
          <TrialTable
            id={view.id}
            names={names}
            columns={columns}
            currency={currency}
            objective={search.objective.map(({ metric }) => metric)}
            first={page}
            firstAsked={loaderData.asked}
            asked={askedPart(params)}
            stamp={`${page.all} ${columns.join()}`}
            sort={params.get("sort") ?? "-fit"}
            onSort={(sort) => set("sort", sort === "-fit" ? null : sort)}
            baseline={baseline}
            marks={marks}
            picked={picked}
            onPick={pick}
            addressOf={address}
            onOpen={(trial) => void navigate(address(trial))}
            foot={
              chosen.length > 0 && (
                <span className="ml-auto flex items-center gap-2">
                  {picked.size === 0 ? "nothing picked: the peak and the middle" : `${picked.size} picked`}
                  <Button asChild small look="quiet">
                    <Link to={compared}>Compare</Link>
                  </Button>
                  <Button asChild small look="quiet">
                    <Link to={`${compared}&finer=1`}>Test again more finely</Link>
                  </Button>
                </span>
              )
            }
          />
        </Panel>
      </div>
      {judged !== null && glance !== null && (
        <div className="mt-3 grid grid-cols-2 items-start gap-3">
          <div className="col-span-2">
            <Overview
              glance={glance}
              figures={figures}
              judged={judged}
              currency={currency}
              number={view.number}
              kept={kept}
              onFigure={onFigure}
              addressOf={opened}
            />
          </div>
          {lines !== null && (
            <div className="col-span-2">
              <LinesPanel
                axes={axes}
                id={view.id}
                metrics={lined}
                currency={currency}
                all={lines}
                filters={filters}
                onFilters={(next) => set("f", writeFilters(next))}
                marked={marked}
                onPick={open}
              />
            </div>
          )}
          <div className="flex flex-col gap-3">
            <Curves profiles={judged.profiles} number={view.number} />
            <Outliers id={view.id} excluded={view.origin.without} />
          </div>
          <div className="flex flex-col gap-3">
            <Luck
              luck={luck.data?.luck ?? null}
              asking={luck.state !== "idle"}
              problems={luck.data?.problems ?? NONE}
              onAsk={ask}
              adaptive={search.method?.kind === "evolution" || search.method?.kind === "refine"}
              number={view.number}
              marks={luckMarks}
              addressOf={opened}
            />
            <Permuted
              studies={looks}
              objective={objective}
              own={judged.peak?.metrics[objective.metric] ?? null}
              reached={reached}
              trials={job.done}
              number={view.number}
            />
          </div>
        </div>
      )}
    </>
  );
}

/** Ways to look whether a few trades or markets decide everything: the same search without them, to be set beside this one. */
function Outliers({ id, excluded }: { id: number; excluded: { list: string; symbols: string[] } | null }) {
  return (
    <Panel title="Do a few winners decide?">
      <p className="text-ink-soft">
        Search again with the same ranges and leave out what may decide everything; both can then be set beside each other, and how far the
        choice moves is told.
      </p>
      <ul className="mt-1 list-disc pl-5">
        {[1, 3, 5].map((count) => (
          <li key={count}>
            <Link className="quiet-link" to={`/optimizations/new?like=${id}&withoutBest=${count}`}>
              without {count === 1 ? "its best trade" : `its ${count} best trades`}
            </Link>
          </li>
        ))}
        <li>
          <Link className="quiet-link" to={`/optimizations/new?like=${id}&focus=without`}>
            {excluded === null
              ? "without the markets of an exclusion list"
              : `with ${excluded.symbols.join(", ")}, which “${excluded.list}” took out`}
          </Link>
        </li>
      </ul>
    </Panel>
  );
}
