import { useMemo } from "react";
import { data, Link, redirect, Form } from "react-router";
import { isRefused, refuse } from "#server/problem";
import { LinesChart, type Line } from "~/charts/lines-chart";
import { Button } from "~/design/button";
import { Empty, PageHead, Panel, Problems } from "~/design/panel";
import { useAddress } from "~/design/use-address";
import { FinerPanel } from "~/optimizations/finer-panel";
import { ownValues } from "~/optimizations/own-values";
import { MOST_PICKED, numbersOf } from "~/optimizations/picks";
import { originOf, trialAddress } from "~/optimizations/trial-address";
import { FiguresBeside } from "~/runs/figures-beside";
import { KEY_METRICS, OTHER_METRICS } from "~/runs/report-keys";
import { withValues } from "~/strategies/with-values";
import type { Route } from "./+types/trials-compare";

export const meta: Route.MetaFunction = () => [{ title: "Trials beside each other · Canyon" }];

export async function loader({ context, params, request }: Route.LoaderArgs) {
  const { optimizations, strategies, trials } = context.services;
  const view = await optimizations.get(Number(params.id));
  if (view === null) throw new Response("There is no such optimization.", { status: 404 });
  const asked = numbersOf(new URL(request.url).searchParams.get("trials"));
  const numbers = asked.slice(0, MOST_PICKED);
  const found = (await Promise.all(numbers.map((number) => trials.one(view, number)))).flatMap((trial) => trial ?? []);
  const [version, curves, judged] = await Promise.all([
    strategies.version(view.versionId),
    found.length === 0 ? [] : trials.curvesOf(view, [{}, ...found.map((trial) => trial.values)]),
    trials.judgedWithin(view, 2000),
  ]);
  const missing = numbers.filter((number) => !found.some((trial) => trial.number === number));
  return {
    view,
    found,
    own: ownValues(version!.strategy),
    curves,
    baseline: judged?.baseline ?? null,
    problems: [
      ...missing.map((number) => ({ path: "trials", message: `there is no trial ${number}` })),
      ...(asked.length > MOST_PICKED
        ? [{ path: "trials", message: `at most ${MOST_PICKED} stand beside each other; the first of them do` }]
        : []),
    ],
  };
}

/** Takes the values of a trial over as the next version of its strategy. */
export async function action({ context, params, request }: Route.ActionArgs) {
  const { optimizations, strategies, trials } = context.services;
  const view = await optimizations.get(Number(params.id));
  if (view === null) throw new Response("There is no such optimization.", { status: 404 });
  const form = await request.formData();
  try {
    const trial = await trials.one(view, Number(form.get("trial")));
    if (trial === null) return refuse("trial", "there is no such trial", 404);
    const version = (await strategies.version(view.versionId))!;
    const next = withValues(version.strategy, trial.values);
    const saved = await strategies.save(view.strategyId, view.versionNumber, next, originOf(view.number, trial.number), view.settings);
    return redirect(`/strategies/${view.strategyId}?v=${saved.number}`);
  } catch (error) {
    if (isRefused(error)) return data({ problems: error.problems }, { status: error.status });
    throw error;
  }
}

/** Up to eight trials and the version as it stands beside each other: curves, figures, values, and a finer test. */
export default function TrialsComparePage({ loaderData, actionData }: Route.ComponentProps) {
  const { view, found, own, curves, baseline, problems } = loaderData;
  const { params, set } = useAddress();
  const back = `/optimizations/${view.id}`;
  const currency = view.settings.currency ?? "money";
  const names = ["as it stands", ...found.map((trial) => `trial ${trial.number}`)];
  const lines = useMemo<Line[]>(
    () =>
      curves.map((points, i) => ({
        name: names[i],
        time: points.map((point) => point.x),
        value: points.map((point) => point.y),
      })),
    // names follow from the trials
    // eslint-disable-next-line react-hooks/exhaustive-deps
    [curves],
  );
  const title = `Trials of optimization ${view.number}, ${view.strategyName} v${view.versionNumber}`;
  if (found.length === 0)
    return (
      <>
        <PageHead title={title} />
        <Problems problems={problems} />
        <Empty
          title="No trial picked yet"
          action={
            <Button asChild look="primary">
              <Link to={back}>To its trials</Link>
            </Button>
          }
        >
          Pick trials in the table, up to {MOST_PICKED}, and press C.
        </Empty>
      </>
    );
  const all = params.get("figures") === "all";
  const kept = (all ? [...KEY_METRICS, ...OTHER_METRICS] : KEY_METRICS).filter((key) => found.some((trial) => trial.metrics[key] !== null));
  const varied = view.search.vary.map((item) => item.name);
  const finer = params.get("finer") !== null;
  return (
    <>
      <PageHead
        title={title}
        about={
          <>
            each against the version as it stands ·{" "}
            <Link className="quiet-link" to={back}>
              all trials
            </Link>
          </>
        }
      />
      <div className="mb-3 empty:hidden">
        <Problems problems={[...problems, ...(actionData?.problems ?? [])]} />
      </div>
      <div className="grid grid-cols-[minmax(0,1fr)] gap-3">
        <Panel title="Equity">
          <LinesChart label="Equity of the trials" lines={lines} fileName={`optimization-${view.number}-trials`} height={260} />
        </Panel>
        <Panel
          flush
          title="Figures"
          note="marked ◆ where one differs from the version by more than a tenth"
          aside={
            <button type="button" className="quiet-link" onClick={() => set("figures", all ? null : "all")}>
              {all ? "the dozen that decide" : "all figures"}
            </button>
          }
        >
          <FiguresBeside
            label="Figures of the trials"
            fileName={`optimization-${view.number}-trials`}
            names={names}
            metrics={[baseline ?? {}, ...found.map((trial) => trial.metrics)]}
            keys={kept}
            currency={currency}
            above={varied.map((name) => ({
              key: `=${name}`,
              cells: [
                <span key="name" className="figure-text">
                  {name}
                </span>,
                own[name],
                ...found.map((trial) => Number(trial.values[name].toPrecision(12))),
              ],
              file: [name, own[name], ...found.map((trial) => trial.values[name])],
            }))}
          />
          <div className="flex flex-wrap gap-x-6 gap-y-2 border-t border-edge px-3.5 py-2 text-sm">
            {found.map((trial) => (
              <Form key={trial.number} method="post" className="flex items-center gap-2">
                <input type="hidden" name="trial" value={trial.number} />
                trial {trial.number}:
                <Link className="quiet-link" to={trialAddress(view, trial.values, trial.number)}>
                  open as a backtest
                </Link>
                <Button small look="quiet" type="submit">
                  Take over as a version
                </Button>
              </Form>
            ))}
          </div>
        </Panel>
        <FinerPanel
          optimization={view.id}
          trials={found.map((trial) => trial.number)}
          on={finer}
          onAsk={() => set("finer", "1")}
          metric={params.get("figure") ?? "netProfit"}
          onMetric={(metric) => set("figure", metric === "netProfit" ? null : metric)}
          currency={currency}
        />
      </div>
    </>
  );
}
