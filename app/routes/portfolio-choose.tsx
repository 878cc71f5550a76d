import { useState } from "react";
import { Form, Link, useNavigation } from "react-router";
import { CHOICE_METHODS, CHOICE_OBJECTIVES, clusterOrder } from "#core/portfolio";
import { chooseFromLibrary, choosingPlan, lastDate, looksTaken } from "#server/portfolio-choosing";
import { isRefused } from "#server/problem";
import { Button } from "~/design/button";
import { Field, Select } from "~/design/field";
import { dateText, decimal } from "~/design/format";
import { Empty, PageHead, Panel, Problems } from "~/design/panel";
import { PlainTable } from "~/design/plain-table";
import { Matrix } from "~/portfolios/matrix";
import { StretchRows, type NamedRow } from "~/portfolios/stretch-rows";
import { FIGURE_WORDS } from "~/portfolios/words";
import type { Route } from "./+types/portfolio-choose";

export const meta: Route.MetaFunction = () => [{ title: "Choose from the library · Canyon" }];

export async function loader({ context, request }: Route.LoaderArgs) {
  const { services } = context;
  const query = new URL(request.url).searchParams;
  const [last, taken] = await Promise.all([lastDate(services), looksTaken(services.db)]);
  const asked = query.has("count");
  try {
    const plan = choosingPlan(query, last);
    const view = asked ? await chooseFromLibrary(services, plan) : null;
    return { plan, view, taken: asked ? await looksTaken(services.db) : taken, problems: [], last };
  } catch (error) {
    if (!isRefused(error)) throw error;
    return { plan: null, view: null, taken, problems: error.problems, last };
  }
}

const METHODS: Record<(typeof CHOICE_METHODS)[number], string> = {
  greedy: "one after the other",
  evolution: "by evolution",
};
const WHY: Record<string, string> = {
  correlation: "too much like one of the chosen",
  markets: "the limit of its market is reached",
  sectors: "the limit of its sector is reached",
};

/** The best few of the library within limits, chosen on one stretch and judged on the next. */
export default function ChoosePage({ loaderData: { plan, view, taken, problems, last } }: Route.ComponentProps) {
  const busy = useNavigation().state !== "idle";
  const [typed, setTyped] = useState({
    count: String(plan?.count ?? 3),
    from: plan?.from ?? "2005-01-01",
    to: plan?.to ?? "2014-12-31",
    judgeTo: plan?.judgeTo ?? last,
    correlation: plan?.limits.correlation === undefined ? "" : String(plan.limits.correlation),
    perMarket: plan?.limits.perMarket === undefined ? "" : String(plan.limits.perMarket),
    perSector: plan?.limits.perSector === undefined ? "" : String(plan.limits.perSector),
    same: String(plan?.limits.same ?? 0.9),
  });
  const [method, setMethod] = useState<string>(plan?.method ?? "greedy");
  const [objective, setObjective] = useState<string>(plan?.objective ?? "sharpe");
  const field = (key: keyof typeof typed, label: string, more: { type?: string; placeholder?: string; className?: string } = {}) => (
    <Field
      label={label}
      name={key}
      value={typed[key]}
      onChange={(event) => setTyped({ ...typed, [key]: event.target.value })}
      error={problems.find(({ path }) => path === key)?.message}
      {...more}
    />
  );
  const total = taken.reduce((sum, { count }) => sum + count, 0);
  const chosen = view?.choice.chosen ?? [];
  const rows = (view?.entries ?? []).map((entry, i): NamedRow & { group: string } => {
    const group = view!.groups.find(({ members }) => members.includes(i));
    const stands = group === undefined || group.first === i ? "" : `nearly the same as ${view!.entries[group.first].name}`;
    const kept = view!.kept.find((one) => one.entry === i);
    return {
      key: String(entry.versionId),
      name: (
        <>
          {chosen.includes(i) && <span className="mr-1 text-moss-ink">✓ chosen</span>} {entry.name}{" "}
          <span className="text-ink-soft">
            v{entry.version}, {entry.status}, {entry.markets.length > 3 ? `${entry.markets.length} markets` : entry.markets.join(", ")}
          </span>
        </>
      ),
      plain: entry.name,
      row: entry.fit,
      strong: chosen.includes(i),
      after: stands !== "" ? stands : kept !== undefined ? WHY[kept.why] : "",
      group: stands,
    };
  });
  return (
    <>
      <PageHead
        title="Choose from the library"
        about="The best few within limits, chosen on one stretch of dates and judged on the next."
        actions={
          <Button asChild>
            <Link to="/portfolios">Portfolios</Link>
          </Button>
        }
      />
      <Panel title="What is asked">
        <Form method="get" className="grid grid-cols-6 items-end gap-3">
          {field("count", "How many")}
          <Select
            label="By"
            name="objective"
            value={objective}
            choices={CHOICE_OBJECTIVES.map((key) => ({ value: key, label: FIGURE_WORDS[key].name }))}
            onChange={setObjective}
          />
          <Select
            label="How"
            name="method"
            value={method}
            choices={CHOICE_METHODS.map((key) => ({ value: key, label: METHODS[key] }))}
            onChange={setMethod}
          />
          {field("from", "Chosen on dates from", { type: "date" })}
          {field("to", "to", { type: "date" })}
          {field("judgeTo", "judged from there to", { type: "date" })}
          {field("correlation", "No pair above correlation", { placeholder: "no limit" })}
          {field("perMarket", "At most of one market", { placeholder: "no limit" })}
          {field("perSector", "At most of one sector", { placeholder: "no limit" })}
          {field("same", "Nearly the same from correlation")}
          <label className="flex items-center gap-1.5 pb-1.5 text-sm">
            <input type="checkbox" name="drafts" value="yes" defaultChecked={plan?.drafts ?? false} />
            not survivors only
          </label>
          <Button type="submit" look="primary" disabled={busy}>
            {busy ? "Choosing …" : "Choose"}
          </Button>
        </Form>
        <div className="mt-2 empty:hidden">
          <Problems problems={problems} />
        </div>
        <p className="mt-2 text-sm text-ink-soft">
          Selections are compared by putting the members' daily returns together in equal parts; what is chosen is then simulated on one
          account. <b className="figure-text">{decimal(total, 0)}</b> selections were looked at so far, by {decimal(taken.length, 0)}{" "}
          {taken.length === 1 ? "question" : "different questions"}
          {taken.length > 0 && `, the last over ${taken[0].from} to ${taken[0].to} (${dateText(taken[0].at)})`}: every look is counted, and
          a portfolio's luck is judged by all of them.
        </p>
      </Panel>
      {view !== null && view.entries.length === 0 && (
        <div className="mt-3">
          <Empty title="Nothing to choose from" action={<Link to="/library">To the library</Link>}>
            No survivor is in the library. Ask for more than survivors, or make some: a version becomes one when its evidence holds.
          </Empty>
        </div>
      )}
      {view !== null && view.entries.length > 0 && (
        <div className="mt-3 grid grid-cols-[minmax(0,1fr)] gap-3">
          <Panel
            flush
            title={chosen.length === 0 ? "Nobody was chosen" : `${decimal(chosen.length, 0)} chosen`}
            note={
              chosen.length < view.plan.count
                ? `${view.plan.count} were asked for; the limits or the library have no more`
                : `${decimal(view.choice.looks, 0)} selections looked at`
            }
            aside={
              chosen.length > 1 && (
                <Button asChild small look="primary">
                  <Link to={`/portfolios/new?take=${chosen.map((i) => view.entries[i].versionId).join(",")}`}>Make them a portfolio</Link>
                </Button>
              )
            }
          >
            <StretchRows
              label="The chosen on one account"
              first="account, in equal parts"
              fileName="chosen"
              rows={[
                ...(view.chosen === null
                  ? []
                  : [
                      { key: "fit", name: "the chosen, where they were chosen", plain: "chosen, fit", row: view.chosen.fit },
                      {
                        key: "judged",
                        name: "the chosen, judged on later dates",
                        plain: "chosen, judged",
                        row: view.chosen.judged,
                        strong: true,
                      },
                    ]),
                ...(view.all === null
                  ? []
                  : [
                      { key: "all fit", name: "all of them, on the first dates", plain: "all, fit", row: view.all.fit },
                      { key: "all judged", name: "all of them, on the later dates", plain: "all, judged", row: view.all.judged },
                    ]),
              ]}
            />
          </Panel>
          <Panel flush title="Who was there" note="each alone on the whole account, on the dates of the choice">
            <StretchRows label="Who was there" first="version" fileName="choosing-entries" rows={rows} after="note" />
          </Panel>
          <div className="grid grid-cols-2 items-start gap-3">
            <Panel flush title="Judged" note="each alone, on the later dates">
              <PlainTable
                label="Judged alone"
                fileName="choosing-judged"
                heads={["version", "CAGR, %", "Sharpe", "drawdown, %"]}
                rows={view.entries.map(({ name, versionId, judged }) => ({
                  key: versionId,
                  cells: [name, decimal(judged.cagr, 2), decimal(judged.sharpe, 2), decimal(judged.maxDrawdownPercent, 1)],
                  file: [name, judged.cagr, judged.sharpe, judged.maxDrawdownPercent],
                }))}
              />
            </Panel>
            <Panel title="Correlation of daily results" note="alone, on the dates of the choice">
              <Matrix
                label="Correlation of daily results"
                names={view.entries.map(({ name }) => name)}
                order={clusterOrder(view.correlations)}
                values={view.correlations}
                fileName="choosing-correlation"
              />
            </Panel>
          </div>
          {view.left.length > 0 && (
            <p className="text-sm text-ink-soft">Not looked at: {view.left.map(({ name, why }) => `${name} (${why})`).join("; ")}.</p>
          )}
        </div>
      )}
    </>
  );
}
