import { useMemo, useState } from "react";
import { data, Form, redirect, useFetcher, useNavigation } from "react-router";
import { READY_MADE } from "#core/library";
import { loadPortfolioOrNull } from "#server/portfolio-report";
import { isRefused } from "#server/problem";
import { makeSwitch, regimeView, type RegimeQuestion } from "#server/regimes";
import { LinesChart } from "~/charts/lines-chart";
import { lineFrom } from "~/charts/sent-line";
import { Button } from "~/design/button";
import { Field, Select } from "~/design/field";
import { decimal, signed } from "~/design/format";
import { PageHead, Panel, Problems } from "~/design/panel";
import { PlainTable } from "~/design/plain-table";
import type { Route } from "./+types/regimes";

export const meta: Route.MetaFunction = () => [{ title: "Regimes · Canyon" }];

const CASH = "cash";

/** The question of an address; null where nothing is asked yet. */
function questionOf(params: URLSearchParams): RegimeQuestion | null {
  const rule = params.get("rule")?.trim() ?? "";
  if (rule === "") return null;
  const no = params.get("no") ?? CASH;
  return {
    rule,
    market: params.get("market") ?? "",
    yes: params.get("yes") ?? "",
    no: no === CASH ? null : no,
    from: params.get("from") || null,
    to: params.get("to") || null,
  };
}

export async function loader({ context, request }: Route.LoaderArgs) {
  const { services } = context;
  const question = questionOf(new URL(request.url).searchParams);
  const [markets, portfolios] = await Promise.all([services.markets.list(), services.portfolios.list()]);
  const symbols = markets.map(({ symbol }) => symbol);
  if (question === null) return { question, view: null, symbols, problems: [] };
  try {
    const pages = await Promise.all(portfolios.map(({ id }) => loadPortfolioOrNull(services, id)));
    const view = await regimeView(services, question, pages.filter((page) => page !== null)); // prettier-ignore
    return { question, view, symbols, problems: [] };
  } catch (error) {
    if (!isRefused(error)) throw error;
    return { question, view: null, symbols, problems: error.problems };
  }
}

export async function action({ context, request }: Route.ActionArgs) {
  const form = await request.formData();
  const question = questionOf(new URLSearchParams(String(form.get("asked"))));
  try {
    return redirect(`/portfolios/${await makeSwitch(context.services, question!, String(form.get("name")))}`);
  } catch (error) {
    if (isRefused(error)) return data({ problems: error.problems }, { status: error.status });
    throw error;
  }
}

const REGIMES = READY_MADE.filter(({ kind }) => kind === "regime");
const hundred = (x: number) => decimal(x, 0);

/** A condition divides time: what holding, switching and portfolios did within and without. */
export default function RegimesPage({ loaderData: { question, view, symbols, problems } }: Route.ComponentProps) {
  const busy = useNavigation().state === "loading";
  const fetcher = useFetcher<typeof action>();
  const first = symbols.includes("SALT40") ? "SALT40" : (symbols[0] ?? "");
  const [typed, setTyped] = useState({
    rule: question?.rule ?? "",
    market: question?.market ?? first,
    yes: question?.yes ?? first,
    no: question === null ? CASH : (question.no ?? CASH),
    from: question?.from ?? "",
    to: question?.to ?? "",
  });
  const [name, setName] = useState("");
  const set = (key: keyof typeof typed) => (value: string) => setTyped((before) => ({ ...before, [key]: value }));
  const error = (key: string) => problems.find(({ path }) => path === key)?.message;
  const lines = useMemo(() => (view?.lines ?? []).map((line, i) => ({ ...lineFrom(line), look: (["quiet", "benchmark", "main"] as const)[i === view!.lines.length - 1 ? 2 : i] })), [view]); // prettier-ignore
  const stretches = useMemo(
    () =>
      (view?.stretches ?? []).map(({ from, to }) => ({
        name: "",
        from: from * 86_400_000,
        to: (to + 1) * 86_400_000,
        tint: "judged" as const,
      })),
    [view],
  );
  const choices = symbols.map((symbol) => ({ value: symbol, label: symbol }));
  const made = fetcher.data && "problems" in fetcher.data ? fetcher.data.problems : [];
  return (
    <>
      <PageHead
        title="Regimes"
        about="A condition in the rule notation divides time: what happens while it says yes, what while it says no, and switching between the two."
      />
      <Panel title="The condition">
        <Form method="get" className="grid grid-cols-6 items-end gap-3">
          <Field
            className="col-span-4"
            label="Condition"
            name="rule"
            value={typed.rule}
            onChange={(event) => set("rule")(event.target.value)}
            error={error("rule")}
            placeholder="close > sma(close, 200)"
          />
          <Select
            className="col-span-2"
            label="or one of the library"
            value=""
            placeholder="choose"
            choices={REGIMES.map(({ name: key, title }) => ({ value: key, label: title }))}
            onChange={(key) => set("rule")(REGIMES.find((one) => one.name === key)!.rule)}
          />
          <Select label="Asked on the bars of" name="market" value={typed.market} choices={choices} onChange={set("market")} />
          <Select label="While yes, hold" name="yes" value={typed.yes} choices={choices} onChange={set("yes")} />
          <Select
            label="while no, hold"
            name="no"
            value={typed.no}
            choices={[{ value: CASH, label: "cash" }, ...choices]}
            onChange={set("no")}
          />
          <Field
            label="From"
            type="date"
            name="from"
            value={typed.from}
            onChange={(event) => set("from")(event.target.value)}
            error={error("from")}
          />
          <Field
            label="To"
            type="date"
            name="to"
            value={typed.to}
            onChange={(event) => set("to")(event.target.value)}
            error={error("to")}
          />
          <Button type="submit" look="primary" disabled={busy || typed.rule.trim() === ""}>
            {busy ? "Computing …" : "Divide"}
          </Button>
        </Form>
        <div className="mt-2 empty:hidden">
          <Problems problems={problems} />
        </div>
        {view === null && problems.length === 0 && (
          <p className="mt-2 text-ink-soft">
            Each day counts by what the condition said at the close before it, so that one could have acted on it. Try{" "}
            <i>Calm by bond against index</i>, asked on SALT40, with SHORE10 while no.
          </p>
        )}
      </Panel>
      {view !== null && (
        <div className="mt-3 grid grid-cols-[minmax(0,1fr)] gap-3">
          <Panel
            flush
            title="Within and without"
            note={`it says yes on ${decimal(100 * view.share, 0)} % of the days and changes ${decimal(view.changes, 0)} times; no costs`}
          >
            <PlainTable
              label="Within and without"
              fileName="regimes"
              heads={[
                "what",
                "yes: days",
                "% a year",
                "volatility, %",
                "Sharpe",
                "drawdown, %",
                "no: days",
                "% a year ",
                "volatility, % ",
                "Sharpe ",
                "drawdown, % ",
                "all: % a year",
                "Sharpe  ",
                "drawdown, %  ",
              ]}
              rows={view.rows.map(({ name: what, days: { yes, no, all } }) => {
                const parts = [
                  yes.days,
                  yes.yearPercent,
                  yes.volatility,
                  yes.sharpe,
                  yes.maxDrawdownPercent,
                  no.days,
                  no.yearPercent,
                  no.volatility,
                  no.sharpe,
                  no.maxDrawdownPercent,
                  all.yearPercent,
                  all.sharpe,
                  all.maxDrawdownPercent,
                ];
                return {
                  key: what,
                  strong: what.includes("while yes"),
                  cells: [
                    what,
                    ...parts.map((x, i) =>
                      i === 0 || i === 5
                        ? decimal(x, 0)
                        : [1, 6, 10].includes(i)
                          ? signed(x, 1)
                          : decimal(x, [3, 8, 11].includes(i) ? 2 : 1),
                    ),
                  ],
                  file: [what, ...parts],
                };
              })}
            />
          </Panel>
          <Panel title="Holding and switching" note="start = 100; tinted where the condition says yes">
            <LinesChart
              label="Holding and switching"
              lines={lines}
              height={300}
              stretches={stretches}
              tick={hundred}
              fileName="regimes-equity"
            />
          </Panel>
          <Panel
            title="Make the switch a portfolio"
            note="two strategies with opposite conditions, each with half of the weights; they become drafts in the library"
          >
            <fetcher.Form method="post" className="flex items-end gap-3">
              <input
                type="hidden"
                name="asked"
                value={new URLSearchParams({
                  ...question!,
                  no: question!.no ?? CASH,
                  from: question!.from ?? "",
                  to: question!.to ?? "",
                }).toString()}
              />
              <Field
                label="Name"
                name="name"
                value={name}
                onChange={(event) => setName(event.target.value)}
                className="w-72"
                placeholder="Calm and storm"
              />
              <Button type="submit" disabled={fetcher.state !== "idle" || question!.no === null}>
                {fetcher.state !== "idle" ? "Making …" : "Make a portfolio"}
              </Button>
              {question!.no === null && (
                <span className="pb-1.5 text-sm text-ink-soft">choose a market for “no” first: cash is no member</span>
              )}
            </fetcher.Form>
            <div className="mt-2 empty:hidden">
              <Problems problems={made} />
            </div>
          </Panel>
        </div>
      )}
    </>
  );
}
