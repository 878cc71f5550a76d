import { useMemo, useState } from "react";
import { useSearchParams } from "react-router";
import { against, againstChoices, type AgainstView } from "#server/against";
import { isRefused } from "#server/problem";
import { runPage } from "#server/run-page";
import { LinesChart } from "~/charts/lines-chart";
import { lineFrom } from "~/charts/sent-line";
import { Button } from "~/design/button";
import { Field, Select } from "~/design/field";
import { decimal, signed } from "~/design/format";
import { Panel, Problems } from "~/design/panel";
import { PlainTable, type PlainRow } from "~/design/plain-table";
import { RunHead } from "~/runs/run-head";
import type { Route } from "./+types/run-against";

export const meta: Route.MetaFunction = ({ data: page }) => [
  { title: page ? `Against what, ${page.summary.strategyName}, run ${page.summary.number} · Canyon` : "Run · Canyon" },
];

export async function loader({ context, params, request }: Route.LoaderArgs) {
  const { services } = context;
  const run = await runPage(services, Number(params.id));
  if (run === null) throw new Response("There is no such run.", { status: 404 });
  const choices = await againstChoices(services, run);
  const choice = new URL(request.url).searchParams.get("vs") ?? choices[0].value;
  const page = { summary: run.summary, layers: run.layers, dates: run.dates, choices, choice };
  try {
    return { ...page, view: await against(services, run, choice), problems: [] };
  } catch (error) {
    if (isRefused(error)) return { ...page, view: null, problems: error.problems };
    throw error;
  }
}

/** A run against what could have been done instead: a market held, another run, a portfolio, a list in equal parts, cash. */
export default function RunAgainstPage({ loaderData: { summary, layers, dates, choices, choice, view, problems } }: Route.ComponentProps) {
  const [params, setParams] = useSearchParams();
  const [rate, setRate] = useState("3");
  const choose = (value: string) => setParams((before) => (before.set("vs", value), before), { replace: true, preventScrollReset: true });
  const known = choices.some((one) => one.value === choice);
  const lines = useMemo(() => view?.lines.map((line) => lineFrom(line)) ?? [], [view]);
  const apart = params.get("curves") === "difference";
  const difference = useMemo(
    () => (view === null ? [] : [{ name: `this run less ${view.name}`, time: view.lines[0].time, value: differenceOf(view.lines) }]),
    [view],
  );
  return (
    <>
      <RunHead summary={summary} layers={layers} dates={dates} />
      <div className="grid grid-cols-[minmax(0,1fr)] gap-3">
        <Panel>
          <form
            className="flex flex-wrap items-end gap-3"
            onSubmit={(event) => {
              event.preventDefault();
              choose(`cash:${rate}`);
            }}
          >
            <Select
              className="w-80"
              label="Held against"
              value={choice}
              choices={known ? choices : [...choices, { value: choice, label: view?.name ?? choice }]}
              onChange={choose}
            />
            <Field
              className="w-36"
              label="or cash, % a year"
              inputMode="decimal"
              value={rate}
              onChange={(event) => setRate(event.target.value)}
            />
            <Button type="submit">Set</Button>
          </form>
        </Panel>
        <Problems problems={problems} title="The run can't be held against this" />
        {view !== null && (
          <>
            <Panel
              title={apart ? "The difference, money" : "Both curves, from the same capital"}
              aside={
                <button
                  type="button"
                  className="quiet-link"
                  onClick={() =>
                    setParams(
                      (before) => {
                        if (apart) before.delete("curves");
                        else before.set("curves", "difference");
                        return before;
                      },
                      { replace: true, preventScrollReset: true },
                    )
                  }
                >
                  {apart ? "both curves" : "the difference"}
                </button>
              }
            >
              <LinesChart
                label={apart ? "The difference" : `This run and ${view.name}`}
                lines={apart ? difference : lines}
                fileName={`run-${summary.id}-against`}
              />
            </Panel>
            <div className="grid grid-cols-2 items-start gap-3">
              <Panel flush title="Figures of both">
                <PlainTable
                  label="Figures of both"
                  fileName={`run-${summary.id}-against-figures`}
                  heads={["figure", "this run", view.name, "difference"]}
                  rows={bothRows(view)}
                />
                <p className="px-3.5 py-2 text-sm text-ink-soft">{sentence(view)}</p>
              </Panel>
              <Panel
                flush
                title="In its good months and in its bad ones"
                note={`${view.figures.months} months; better in ${view.figures.better}`}
              >
                <PlainTable
                  label="Good and bad months"
                  fileName={`run-${summary.id}-against-months`}
                  heads={["months of the other", "how many", "this run, mean %", "the other, mean %", "share of its way, %"]}
                  rows={(["up", "down"] as const).map((way) => {
                    const { count, own, other, share } = view.figures[way];
                    return {
                      key: way,
                      cells: [`it went ${way}`, decimal(count, 0), signed(own, 2), signed(other, 2), decimal(share, 0)],
                      file: [way, count, own, other, share],
                    };
                  })}
                />
                <PlainTable
                  label="How they move together"
                  fileName={`run-${summary.id}-against-together`}
                  heads={["returns of both", "figure"]}
                  rows={(
                    [
                      ["beta: what the run does when the other moves by 1", view.figures.beta, 2],
                      ["alpha: what it brings besides, % a year", view.figures.alpha, 1],
                      ["correlation", view.figures.correlation, 2],
                    ] as const
                  ).map(([name, value, digits]) => ({ key: name, cells: [name, decimal(value, digits)], file: [name, value] }))}
                />
              </Panel>
            </div>
          </>
        )}
      </div>
    </>
  );
}

/** Both lines at the times of the first: the other's last value there. */
function differenceOf([own, other]: AgainstView["lines"]): (number | null)[] {
  let row = 0;
  return own.time.map((time, t) => {
    while (row + 1 < other.time.length && other.time[row + 1] <= time) row++;
    const [a, b] = [own.value[t], other.value[row]];
    return a === null || b === null ? null : a - b;
  });
}

function bothRows({ figures }: AgainstView): PlainRow[] {
  const rows: [string, readonly [number | null, number | null]][] = [
    ["net profit, %", figures.netPercent],
    ["growth a year (CAGR), %", figures.cagr],
    ["max drawdown, %", figures.maxDrawdownPercent],
    ["CAGR ÷ drawdown", [ratio(figures.cagr[0], figures.maxDrawdownPercent[0]), ratio(figures.cagr[1], figures.maxDrawdownPercent[1])]],
  ];
  return rows.map(([name, [own, other]]) => {
    const difference = own === null || other === null ? null : own - other;
    const digits = name.includes("÷") ? 2 : 1;
    return {
      key: name,
      cells: [name, decimal(own, digits), decimal(other, digits), signed(difference, digits)],
      file: [name, own, other, difference],
    };
  });
}

const ratio = (growth: number | null, fall: number): number | null => (growth === null || fall === 0 ? null : growth / fall);

/** What the figures come to, in one plain sentence. */
function sentence({ name, figures }: AgainstView): string {
  const { excess, maxDrawdownPercent } = figures;
  if (excess === null) return "One of both accounts came to nothing, so there is no growth to compare.";
  const more = excess > 0 ? `brought ${decimal(excess, 1)} points a year more` : `brought ${decimal(-excess, 1)} points a year less`;
  const [own, other] = maxDrawdownPercent;
  const fell = own < other ? "fell less deep" : own > other ? "fell deeper" : "fell as deep";
  return `Against ${name} this run ${more} and ${fell} (${decimal(own, 1)} % against ${decimal(other, 1)} %).`;
}
