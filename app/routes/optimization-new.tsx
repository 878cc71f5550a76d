import { useMemo, useState } from "react";
import { data, Link, redirect, useFetcher, useNavigate, useSearchParams } from "react-router";
import { formatDate } from "#core/bars";
import type { Parameter, Strategy } from "#core/documents";
import { METRICS, type FigureSet } from "#core/metrics";
import { figuresFault, MAX_TRIALS } from "#core/optimize";
import { isRefused, Refused } from "#server/problem";
import { namedSettings } from "#server/run-settings";
import { Button } from "~/design/button";
import { Field, Select } from "~/design/field";
import { dateText, decimal, duration } from "~/design/format";
import { Empty, PageHead, Panel, Problems } from "~/design/panel";
import { boundsFrom, LimitForm, type Bound } from "~/optimizations/limit-form";
import { MethodForm } from "~/optimizations/method-form";
import { methodFault, methodFrom, methodTrials, START_METHOD, type MethodState } from "~/optimizations/method-state";
import { ObjectiveForm, type Wish } from "~/optimizations/objective-form";
import { axisCount, startAxis, trialCount, varyOf, type AxisState } from "~/optimizations/setup-state";
import { allUnder, underOf } from "~/run-settings/under";
import { UnderChoice } from "~/run-settings/under-choice";
import { SettingsForm } from "~/runs/settings-form";
import { stateOfSettings } from "~/runs/settings-state";
import { useRunSettings } from "~/runs/use-run-settings";
import type { Route } from "./+types/optimization-new";

export const meta: Route.MetaFunction = () => [{ title: "New optimization · Canyon" }];

export async function loader({ context, request }: Route.LoaderArgs) {
  const { services } = context;
  const search = new URL(request.url).searchParams;
  const [strategies, markets] = await Promise.all([services.strategies.newest(), services.markets.list()]);
  const id = search.has("version")
    ? Number(search.get("version"))
    : (strategies.find((v) => (v.strategy.parameters ?? []).length > 0)?.id ?? null);
  const version = id === null ? null : await services.strategies.version(id);
  if (search.has("version") && version === null) throw new Response("There is no such version.", { status: 404 });
  return { strategies, markets, version, ...(await namedSettings(services, search.get("under"))) };
}

export async function action({ context, request }: Route.ActionArgs) {
  const form = await request.formData();
  const { services } = context;
  try {
    const version = await services.strategies.version(Number(form.get("version")));
    if (version === null) throw new Refused([{ path: "version", message: "this version does not exist any more" }]);
    const [search, settings] = [JSON.parse(String(form.get("search"))) as unknown, JSON.parse(String(form.get("settings"))) as unknown];
    if (form.get("intent") === "measure")
      return { problems: [], measured: await services.optimizations.measure(version, search, settings) };
    const id = await services.optimizations.create(version, search, settings);
    return redirect(`/optimizations/${id}`);
  } catch (error) {
    if (isRefused(error)) return data({ problems: error.problems, measured: null }, { status: error.status });
    throw error;
  }
}

/** What can be varied: the parameters, and the variants of definitions by their number. */
function variable(strategy: Strategy): Parameter[] {
  const variants = (strategy.definitions ?? []).flatMap(({ name, variants: list = [], chosen }): Parameter[] =>
    list.length < 2
      ? []
      : [{ name, kind: "whole", value: chosen ?? 1, min: 1, max: list.length, step: 1, about: `${list.length} variants` }],
  );
  return [...(strategy.parameters ?? []), ...variants];
}

export default function NewOptimizationPage({ loaderData }: Route.ComponentProps) {
  const { version } = loaderData;
  if (version === null)
    return (
      <>
        <PageHead title="New optimization" />
        <Empty
          title="No strategy with parameters yet"
          action={
            <Button asChild look="primary">
              <Link to="/strategies/new">New strategy</Link>
            </Button>
          }
        >
          An optimization varies the parameters of a strategy. Give one of yours a parameter first: a number with a name that its rules use.
        </Empty>
      </>
    );
  return <Setup key={version.id} {...loaderData} version={version} />;
}

function Setup({
  strategies,
  markets,
  version,
  named,
  laidOver,
}: Route.ComponentProps["loaderData"] & { version: NonNullable<Route.ComponentProps["loaderData"]["version"]> }) {
  const [params] = useSearchParams();
  const fetcher = useFetcher<typeof action>();
  // measuring stands in nobody's way
  const timing = useFetcher<typeof action>();
  const navigate = useNavigate();
  const parameters = variable(version.strategy);
  const [axes, setAxes] = useState<AxisState[]>(() => parameters.map((parameter, i) => startAxis(parameter, i < 2)));
  const [wishes, setWishes] = useState<Wish[]>([{ metric: "profitToDrawdown", weight: "1" }]);
  const [method, setMethod] = useState<MethodState>(START_METHOD);
  const [where, setWhere] = useState("");
  const [figures, setFigures] = useState<FigureSet>("all");
  const [bounds, setBounds] = useState<Bound[]>([{ metric: "trades", least: "30", most: "" }]);
  const [share, setShare] = useState("70");
  const address = params.get("under");
  const { under, lost } = useMemo(() => underOf(address, laidOver), [address, laidOver]);
  const last = useMemo(() => (version.settings === null ? null : stateOfSettings(version.settings)), [version.settings]);
  // extra series are completed by the server
  const run = useRunSettings({ markets, last, timeframe: version.strategy.timeframe, extras: false, under });
  const { state, market } = run;
  const choices = useMemo(() => allUnder(named), [named]);
  const combined = trialCount(axes);
  const count = combined === null ? null : methodTrials(method, combined);
  const objective = wishes.map(({ metric, weight }) => ({
    metric,
    want: METRICS[metric].better === "less" ? ("less" as const) : ("more" as const),
    weight: Number(weight.replace(",", ".")),
  }));
  const split = useMemo(() => {
    const portion = Number(share);
    if (market === undefined || !Number.isFinite(portion) || portion <= 0 || portion > 100) return null;
    if (portion === 100) return state.to || dateText(market.lastTime);
    const from = state.from ? Date.parse(state.from) : market.firstTime;
    const to = state.to ? Date.parse(state.to) : market.lastTime;
    return formatDate(Math.floor((from + ((to - from) * portion) / 100) / 86_400_000));
  }, [market, share, state.from, state.to]);
  const limits = boundsFrom(bounds);
  const figuresProblem = figuresFault({ figures, objective, limits: bounds.map(({ metric }) => ({ metric })) });
  const methodProblem = methodFault(method);
  const problems = [
    ...axes
      .filter((axis) => axis.varied && axisCount(axis) === null)
      .map((axis) => ({
        path: axis.name,
        message:
          axis.list === null
            ? `the range of ${axis.name} holds no value: from must not be above to, and the step must be above 0`
            : `the values of ${axis.name} must be ${axis.kind === "yesNo" ? "yes, no or both" : "numbers, parted by blanks or commas"}`,
      })),
    ...(split === null ? [{ path: "in-sample share", message: "the share must be above 0 and at most 100" }] : []),
    ...(combined !== null && combined > MAX_TRIALS
      ? [
          {
            path: "",
            message: `this makes ${decimal(combined, 0)} combinations; at most ${decimal(MAX_TRIALS, 0)} are possible. Use larger steps or fewer parameters`,
          },
        ]
      : []),
    ...(lost ? [{ path: "", message: "the run settings that this address names do not exist; those shown are in force" }] : []),
    ...(figuresProblem === null ? [] : [figuresProblem]),
    ...(methodProblem === null ? [] : [methodProblem]),
    ...(limits === null ? [{ path: "limits", message: "every limit needs a number: at least, at most, or both" }] : []),
    ...(objective.every(({ weight }) => weight > 0) ? [] : [{ path: "weight", message: "every weight must be above 0" }]),
    ...(axes.some((axis) => axis.varied) ? [] : [{ path: "", message: "choose at least one parameter to vary" }]),
  ];
  const send = (intent: "start" | "measure") => {
    if (run.settings === null || split === null) return;
    const search = {
      vary: axes.filter((axis) => axis.varied).map(varyOf),
      where: where.trim() === "" ? null : where,
      objective,
      method: methodFrom(method),
      limits,
      figures,
    };
    void (intent === "start" ? fetcher : timing).submit(
      { intent, version: String(version.id), search: JSON.stringify(search), settings: JSON.stringify({ ...run.settings, to: split }) },
      { method: "post" },
    );
  };
  const measured = timing.data?.measured ?? null;
  const refused = [...(fetcher.data?.problems ?? []), ...(fetcher.data === undefined ? (timing.data?.problems ?? []) : [])];
  const set = (i: number, change: Partial<AxisState>) =>
    setAxes((before) => before.map((axis, k) => (k === i ? { ...axis, ...change } : axis)));
  return (
    <>
      <PageHead
        title="New optimization"
        about={`${version.strategyName} v${version.number}: every trial is counted on its line`}
        actions={
          <>
            <span className="text-ink-soft">
              <span className="figure-text font-semibold text-ink" data-count={count ?? ""}>
                {count === null ? "–" : decimal(count, 0)}
              </span>{" "}
              {method.kind === "grid" ? "trials" : method.kind === "refine" ? "combinations, of which some are tried" : "trials at most"}
            </span>
            {measured !== null && (
              <span className="text-ink-soft" role="status" data-measured={measured.seconds}>
                about <span className="figure-text text-ink">{duration(measured.seconds)}</span> for {decimal(measured.trials, 0)}
              </span>
            )}
            <Button onClick={() => send("measure")} disabled={problems.length > 0 || run.settings === null || timing.state !== "idle"}>
              {timing.state === "idle" ? "How long?" : "Measuring …"}
            </Button>
            <Button
              look="primary"
              onClick={() => send("start")}
              disabled={problems.length > 0 || run.settings === null || fetcher.state !== "idle" || count === null}
            >
              {fetcher.state !== "idle" ? "Starting …" : "Start"}
            </Button>
          </>
        }
      />
      {refused.length > 0 && (
        <div className="mb-3">
          <Problems problems={refused} title="This optimization can't start" />
        </div>
      )}
      <div className="grid grid-cols-2 items-start gap-3">
        <div className="flex flex-col gap-3">
          <Panel title="What varies">
            <Select
              label="Strategy"
              value={String(version.id)}
              choices={
                strategies.some((v) => v.id === version.id)
                  ? strategies.map((v) => ({ value: String(v.id), label: `${v.strategyName} v${v.number}` }))
                  : [
                      { value: String(version.id), label: `${version.strategyName} v${version.number}` },
                      ...strategies.map((v) => ({ value: String(v.id), label: `${v.strategyName} v${v.number}` })),
                    ]
              }
              onChange={(id) => void navigate(`/optimizations/new?version=${id}`)}
              className="mb-2"
            />
            {axes.length === 0 && <p className="text-ink-soft">This version has no number to vary. Give it a parameter first.</p>}
            <table className="w-full border-collapse">
              <thead className="text-sm text-ink-soft">
                <tr>
                  <th scope="col" className="text-left font-normal">
                    parameter
                  </th>
                  {["now", "from", "to", "step", "values"].map((head) => (
                    <th key={head} scope="col" className="pl-2 text-right font-normal">
                      {head}
                    </th>
                  ))}
                  <th scope="col">
                    <span className="sr-only">range or list</span>
                  </th>
                </tr>
              </thead>
              <tbody>
                {axes.map((axis, i) => {
                  const input = (key: "from" | "to" | "step") => (
                    <td className="w-20 py-1 pl-2">
                      <input
                        aria-label={`${axis.name}, ${key}`}
                        value={axis[key]}
                        inputMode="decimal"
                        disabled={!axis.varied}
                        aria-invalid={(axis.varied && axisCount(axis) === null) || undefined}
                        onChange={(event) => set(i, { [key]: event.target.value })}
                        className="figure-text w-full rounded-[4px] border border-edge bg-sheet px-1.5 py-0.5 text-right disabled:opacity-50 aria-invalid:border-clay"
                      />
                    </td>
                  );
                  return (
                    <tr key={axis.name} className="border-t border-edge/60">
                      <td>
                        <label className="inline-flex items-center gap-2">
                          <input type="checkbox" checked={axis.varied} onChange={(event) => set(i, { varied: event.target.checked })} />
                          <span className="figure-text">{axis.name}</span>
                        </label>
                      </td>
                      <td className="figure-text pl-2 text-right text-ink-soft">{String(parameters[i].value)}</td>
                      {axis.list === null ? (
                        <>
                          {input("from")}
                          {input("to")}
                          {input("step")}
                        </>
                      ) : (
                        <td colSpan={3} className="py-1 pl-2">
                          <input
                            aria-label={`${axis.name}, values`}
                            value={axis.list}
                            disabled={!axis.varied}
                            aria-invalid={(axis.varied && axisCount(axis) === null) || undefined}
                            onChange={(event) => set(i, { list: event.target.value })}
                            className="figure-text w-full rounded-[4px] border border-edge bg-sheet px-1.5 py-0.5 disabled:opacity-50 aria-invalid:border-clay"
                          />
                        </td>
                      )}
                      <td className="figure-text pl-2 text-right">{axis.varied ? (axisCount(axis) ?? "–") : "1"}</td>
                      <td className="pl-2 text-sm">
                        {axis.kind !== "yesNo" && axis.varied && (
                          <button
                            type="button"
                            className="quiet-link"
                            aria-label={`${axis.name}: ${axis.list === null ? "a list of values" : "a range"}`}
                            onClick={() => set(i, { list: axis.list === null ? `${axis.from} ${axis.to}` : null })}
                          >
                            {axis.list === null ? "list" : "range"}
                          </button>
                        )}
                      </td>
                    </tr>
                  );
                })}
              </tbody>
            </table>
            <Field
              className="mt-2"
              label="Only combinations for which"
              value={where}
              placeholder={
                parameters.length > 1 ? `for example ${parameters[0].name} < ${parameters[1].name}` : "a condition between parameters"
              }
              onChange={(event) => setWhere(event.target.value)}
            />
            <MethodForm state={method} onChange={setMethod} />
          </Panel>
          <Panel title="What is best">
            <ObjectiveForm wishes={wishes} onChange={setWishes} />
            <LimitForm bounds={bounds} onChange={setBounds} />
            <Select
              label="Figures that every trial keeps"
              value={figures}
              choices={[
                { value: "all", label: "all" },
                { value: "trades", label: "those of its trades alone: more than twice as quick" },
              ]}
              onChange={(value) => setFigures(value as FigureSet)}
              className="mt-2"
            />
          </Panel>
        </div>
        <div className="flex flex-col gap-3">
          <Panel title="On what">
            <UnderChoice all={choices} under={under} settings={run.settings} onChange={run.setUnder} />
            <SettingsForm state={state} markets={markets} problems={run.problems} onChange={run.setState} onMarket={run.setMarket} />
          </Panel>
          <Panel title="What it may see">
            <Field
              label="In-sample share of the dates, %"
              value={share}
              inputMode="decimal"
              figure
              className="w-56"
              onChange={(event) => setShare(event.target.value)}
            />
            <p className="mt-2 text-ink-soft">
              {split === null ? (
                "–"
              ) : (
                <>
                  Trials trade up to <span className="figure-text text-ink">{split}</span>. What comes after stays unseen, for the
                  out-of-sample probe.
                </>
              )}
            </p>
          </Panel>
          <Problems problems={problems} />
        </div>
      </div>
    </>
  );
}
