import { useMemo, useState } from "react";
import { useFetcher, useNavigate, useSearchParams } from "react-router";
import { formatDate } from "#core/bars";
import type { Parameter, Strategy } from "#core/documents";
import { METRICS, TRADE_METRICS, type FigureSet } from "#core/metrics";
import { figuresFault, MAX_TRIALS, type Pooling } from "#core/optimize";
import type { MarketView } from "#server/markets";
import type { NamedSettings } from "#server/run-settings";
import type { VersionView } from "#server/strategies";
import { Button } from "~/design/button";
import { Field, Select } from "~/design/field";
import { dateText, decimal, duration } from "~/design/format";
import { PageHead, Panel, Problems } from "~/design/panel";
import type { action, SetupStart } from "~/routes/optimization-new";
import { allUnder, underOf } from "~/run-settings/under";
import { UnderChoice } from "~/run-settings/under-choice";
import { SettingsForm } from "~/runs/settings-form";
import { stateOfSettings, symbolsOf } from "~/runs/settings-state";
import { useRunSettings } from "~/runs/use-run-settings";
import { AxisTable } from "./axis-table";
import { boundsFrom, LimitForm, type Bound } from "./limit-form";
import { MethodForm } from "./method-form";
import { methodFault, methodFrom, methodTrials, START_METHOD, type MethodState } from "./method-state";
import { ObjectiveForm, type Wish } from "./objective-form";
import { PlanPanel } from "./plan-panel";
import { axisCount, axisOf, boundsOf, methodStateOf, startAxis, trialCount, varyOf, wishesOf, type AxisState } from "./setup-state";

interface Props {
  strategies: readonly VersionView[];
  markets: MarketView[];
  version: VersionView;
  start: SetupStart | null;
  plans: readonly { id: number; name: string }[];
  lists: readonly { id: number; name: string; symbols: string[] }[];
  named: NamedSettings[];
  laidOver: NamedSettings | null;
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

const number = (text: string): number => (text.trim() === "" ? NaN : Number(text.replace(",", ".")));

/** The set-up of an optimization: what varies, what is best, on what, and how much of it may be seen. */
export function OptimizationSetup({ strategies, markets, version, start, plans, lists, named, laidOver }: Props) {
  const [params] = useSearchParams();
  const fetcher = useFetcher<typeof action>();
  // measuring stands in nobody's way
  const timing = useFetcher<typeof action>();
  const navigate = useNavigate();
  const parameters = useMemo(() => variable(version.strategy), [version.strategy]);
  const search = start?.search ?? null;
  const [axes, setAxes] = useState<AxisState[]>(() =>
    parameters.map((parameter, i) => (search === null ? startAxis(parameter, i < 2) : axisOf(parameter, search))),
  );
  // what rests on the equity has no best trades to leave out: net profit stands for it
  const withoutSome = params.has("withoutBest");
  const keeps = (metric: string) => !withoutSome || TRADE_METRICS.has(metric);
  const [wishes, setWishes] = useState<Wish[]>(() => {
    if (search === null) return [{ metric: withoutSome ? "netProfit" : "profitToDrawdown", weight: "1" }];
    const kept = search.objective.filter(({ metric }) => keeps(metric));
    return kept.length === 0 ? [{ metric: "netProfit", weight: "1" }] : wishesOf(kept);
  });
  const [method, setMethod] = useState<MethodState>(() => (search === null ? START_METHOD : methodStateOf(search.method)));
  const [where, setWhere] = useState(search?.where ?? "");
  const [figures, setFigures] = useState<FigureSet>(search?.figures ?? "all");
  const [bounds, setBounds] = useState<Bound[]>(() =>
    search === null ? [{ metric: "trades", least: "30", most: "" }] : boundsOf(search.limits.filter(({ metric }) => keeps(metric))),
  );
  const [share, setShare] = useState(start?.share ?? "70");
  const [pooling, setPooling] = useState<Pooling>(search?.pooling ?? "together");
  const [withoutBest, setWithoutBest] = useState(params.get("withoutBest") ?? String(search?.withoutBest ?? 0));
  const [without, setWithout] = useState(String(start?.without ?? 0));
  const address = params.get("under");
  const { under, lost } = useMemo(() => underOf(address, laidOver), [address, laidOver]);
  const last = useMemo(() => {
    const settings = start?.settings ?? version.settings;
    return settings === null ? null : stateOfSettings(settings);
  }, [start, version.settings]);
  // extra series are completed by the server
  const run = useRunSettings({ markets, last, timeframe: version.strategy.timeframe, extras: false, under });
  const { state, market } = run;
  const choices = useMemo(() => allUnder(named), [named]);
  const combined = trialCount(axes);
  const count = combined === null ? null : methodTrials(method, combined);
  const objective = wishes.map(({ metric, weight }) => ({
    metric,
    want: METRICS[metric].better === "less" ? ("less" as const) : ("more" as const),
    weight: number(weight),
  }));
  const split = useMemo(() => {
    const portion = number(share);
    if (market === undefined || !Number.isFinite(portion) || portion <= 0 || portion > 100) return null;
    if (portion === 100) return state.to || dateText(market.lastTime);
    const from = state.from ? Date.parse(state.from) : market.firstTime;
    const to = state.to ? Date.parse(state.to) : market.lastTime;
    return formatDate(Math.floor((from + ((to - from) * portion) / 100) / 86_400_000));
  }, [market, share, state.from, state.to]);
  const limits = boundsFrom(bounds);
  const several = symbolsOf(state.others).length > 0;
  const leftOut = number(withoutBest);
  const options = {
    figures: leftOut > 0 ? ("trades" as const) : figures,
    pooling: several ? pooling : ("together" as const),
    withoutBest: leftOut,
  };
  const figuresProblem = figuresFault({ ...options, objective, limits: bounds.map(({ metric }) => ({ metric })) });
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
    ...(Number.isInteger(leftOut) && leftOut >= 0
      ? []
      : [{ path: "best trades", message: "the number of best trades to leave out must be a whole number from 0 on" }]),
    ...(figuresProblem === null ? [] : [figuresProblem]),
    ...(methodProblem === null ? [] : [methodProblem]),
    ...(limits === null ? [{ path: "limits", message: "every limit needs a number: at least, at most, or both" }] : []),
    ...(objective.every(({ weight }) => weight > 0) ? [] : [{ path: "weight", message: "every weight must be above 0" }]),
    ...(axes.some((axis) => axis.varied) ? [] : [{ path: "", message: "choose at least one parameter to vary" }]),
  ];
  const asked = () => ({
    vary: axes.filter((axis) => axis.varied).map(varyOf),
    where: where.trim() === "" ? null : where,
    objective,
    method: methodFrom(method),
    limits,
    ...options,
  });
  const send = (intent: "start" | "measure") => {
    if (run.settings === null || split === null) return;
    void (intent === "start" ? fetcher : timing).submit(
      {
        intent,
        version: String(version.id),
        search: JSON.stringify(asked()),
        settings: JSON.stringify({ ...run.settings, to: split }),
        without,
        planName: start?.plan?.name ?? "",
      },
      { method: "post" },
    );
  };
  const measured = timing.data?.measured ?? null;
  const refused = [...(fetcher.data?.problems ?? []), ...(fetcher.data === undefined ? (timing.data?.problems ?? []) : [])];
  const excluded = lists.find((list) => String(list.id) === without);
  const gone =
    excluded === undefined ? [] : [state.market, ...symbolsOf(state.others)].filter((symbol) => excluded.symbols.includes(symbol));
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
              choices={[...(strategies.some((v) => v.id === version.id) ? [] : [version]), ...strategies].map((v) => ({
                value: String(v.id),
                label: `${v.strategyName} v${v.number}`,
              }))}
              onChange={(id) => void navigate(`/optimizations/new?version=${id}`)}
              className="mb-2"
            />
            <AxisTable parameters={parameters} axes={axes} onChange={setAxes} />
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
            <div className="mt-2 flex flex-wrap items-end gap-3">
              <Field
                figure
                className="w-44"
                inputMode="numeric"
                label="Best trades to leave out"
                value={withoutBest}
                onChange={(event) => setWithoutBest(event.target.value)}
              />
              <p className="min-w-0 flex-1 text-sm text-ink-soft">
                Of every trial the so many trades with the largest net, so that no freak winner decides.
              </p>
            </div>
            <Select
              label="Figures that every trial keeps"
              value={options.figures}
              choices={[
                ...(leftOut > 0 ? [] : [{ value: "all", label: "all" }]),
                { value: "trades", label: "those of its trades alone: more than twice as quick" },
              ]}
              onChange={(value) => setFigures(value as FigureSet)}
              className="mt-2"
            />
          </Panel>
        </div>
        <div className="flex flex-col gap-3">
          <PlanPanel
            plans={plans}
            current={start?.plan ?? null}
            able={problems.length === 0 && run.settings !== null}
            versionId={version.id}
            document={() => ({ search: JSON.stringify(asked()), settings: JSON.stringify(run.settings), share, without })}
          />
          <Panel title="On what">
            <UnderChoice all={choices} under={under} settings={run.settings} onChange={run.setUnder} />
            <SettingsForm state={state} markets={markets} problems={run.problems} onChange={run.setState} onMarket={run.setMarket} />
            {several && (
              <Select
                className="mt-2"
                label="Markets"
                value={pooling}
                choices={[
                  { value: "together", label: "together, on one account" },
                  { value: "sum", label: "each by itself: the sum of what they make" },
                  { value: "median", label: "each by itself: the middle one decides" },
                  { value: "worst", label: "each by itself: the worst one decides" },
                ]}
                onChange={(value) => setPooling(value as Pooling)}
              />
            )}
            {lists.length > 0 && (
              <Select
                className="mt-2"
                label="Leave out the markets of"
                value={without}
                choices={[{ value: "0", label: "no exclusion list" }, ...lists.map(({ id, name }) => ({ value: String(id), label: name }))]}
                onChange={setWithout}
              />
            )}
            {excluded !== undefined && (
              <p className="mt-1 text-sm text-ink-soft">
                {gone.length === 0
                  ? `None of the markets above is on “${excluded.name}”.`
                  : `Left out: ${gone.join(", ")}. What is chosen for looking worse looks better without it; the same search with it stands beside this one.`}
              </p>
            )}
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
