import { useMemo, useState } from "react";
import { Form, useNavigation } from "react-router";
import { NO_FIGURES } from "#core/portfolio";
import { headOfPage, loadPortfolio } from "#server/portfolio-report";
import { whatIfOf, whatIfView } from "#server/portfolio-what-if";
import { isRefused } from "#server/problem";
import { LinesChart } from "~/charts/lines-chart";
import { lineFrom } from "~/charts/sent-line";
import { Button } from "~/design/button";
import { Field } from "~/design/field";
import { decimal, signedMoney } from "~/design/format";
import { Panel, Problems } from "~/design/panel";
import { PlainTable } from "~/design/plain-table";
import { Head } from "~/portfolios/head";
import { useStretches } from "~/portfolios/use-stretches";
import { StretchRows } from "~/portfolios/stretch-rows";
import type { Route } from "./+types/portfolio-what-if";

export const meta: Route.MetaFunction = ({ data: page }) => [
  { title: page ? `What if, ${page.head.name} · Canyon` : "Portfolio · Canyon" },
];

export async function loader({ context, params, request }: Route.LoaderArgs) {
  const page = await loadPortfolio(context.services, params.id);
  const head = headOfPage(page);
  try {
    const asked = whatIfOf(new URL(request.url).searchParams, page);
    return { head, view: whatIfView(page, asked), problems: [] };
  } catch (error) {
    if (!isRefused(error)) throw error;
    return { head, view: null, problems: error.problems };
  }
}

const count = (x: number) => decimal(x, 0);
const EMPTY = { capital: 0, leverage: 1, costs: 1, drawdown: 20 };

/** The account under other numbers, with a member that fails, with its days in another order. */
export default function WhatIfPage({ loaderData: { head, view, problems } }: Route.ComponentProps) {
  const stretches = useStretches(head);
  const busy = useNavigation().state !== "idle";
  const [typed, setTyped] = useState(() => {
    const asked = view?.asked ?? { ...EMPTY, capital: head.capital, leverage: head.leverage };
    return {
      capital: String(asked.capital),
      leverage: String(asked.leverage),
      costs: String(asked.costs),
      drawdown: String(asked.drawdown),
    };
  });
  const field = (key: keyof typeof typed, label: string) => (
    <Field
      label={label}
      name={key}
      figure
      inputMode="decimal"
      className="w-36"
      value={typed[key]}
      onChange={(event) => setTyped({ ...typed, [key]: event.target.value })}
      error={problems.find(({ path }) => path === key)?.message}
    />
  );
  const lines = useMemo(
    () => (view?.lines ?? []).map((line, i) => ({ ...lineFrom(line), look: i === 0 ? ("quiet" as const) : ("main" as const) })),
    [view],
  );
  const draws = view?.draws ?? null;
  return (
    <>
      <Head head={head} />
      <Panel title="Under other numbers">
        <Form method="get" className="flex flex-wrap items-end gap-3" preventScrollReset>
          {field("capital", `Capital, ${head.currency}`)}
          {field("leverage", "Leverage")}
          {field("costs", "All costs, times")}
          {field("drawdown", "Drawdown not to pass, %")}
          <Button type="submit" look="primary" disabled={busy}>
            {busy ? "Computing …" : "Compute"}
          </Button>
        </Form>
        <div className="mt-2 empty:hidden">
          <Problems problems={problems} />
        </div>
      </Panel>
      {view !== null && (
        <div className="mt-3 grid grid-cols-[minmax(0,1fr)] gap-3">
          <Panel flush title="As it is, and as it would have been">
            <StretchRows
              label="As it is, and as it would have been"
              first="account"
              fileName={`${head.name}-what-if`}
              rows={[
                { key: "now", name: "as it is", plain: "as it is", row: view.now },
                { key: "then", name: "what if", plain: "what if", row: view.then, strong: true },
              ]}
            />
            <p className="px-3.5 pt-1 text-sm text-ink-soft">
              Net {signedMoney(view.thenNet)} {head.currency}; the largest position in one market was{" "}
              {view.largest === null ? "–" : decimal(100 * view.largest, 0)} % of the equity.
            </p>
            <div className="px-3.5 pb-3">
              <LinesChart
                stretches={stretches}
                label="As it is, and what if"
                lines={lines}
                height={200}
                tick={count}
                fileName={`${head.name}-what-if-equity`}
              />
            </div>
          </Panel>
          <Panel
            flush
            title="A member fails at its worst point"
            note="given up at the lowest point of its own deepest fall, and the others go on with what they have"
          >
            <StretchRows
              label="A member fails at its worst point"
              first="member, given up on"
              after="both falls at once, %"
              fileName={`${head.name}-failing`}
              rows={view.failed.map(({ name, date, row, deepestTogether }) => ({
                key: name,
                name: `${name}, ${date}`,
                plain: `${name}, ${date}`,
                row: row ?? NO_FIGURES,
                after: decimal(deepestTogether, 1),
              }))}
            />
            <p className="px-3.5 py-1.5 text-sm text-ink-soft">
              Both falls at once: the member's own deepest fall comes once more, on top of the account's deepest one. A member whose entries
              rest on its own position can't be cut off and has no figures.
            </p>
          </Panel>
          {draws === null ? (
            <Panel title="The same days in another order">
              <p className="text-ink-soft">There are too few days to draw from, or the account was lost.</p>
            </Panel>
          ) : (
            <Panel
              flush
              title="The same days in another order"
              note={`${decimal(draws.joint.samples, 0)} draws in blocks of ${draws.joint.block} days, the same days for all members: what fell together falls together`}
            >
              <PlainTable
                label="The same days in another order"
                fileName={`${head.name}-drawn`}
                heads={[
                  "account",
                  "net, %: one of twenty is below",
                  "the middle",
                  "drawdown, %: the middle",
                  "19 of 20 fall no deeper than",
                  "lost money, %",
                ]}
                rows={(
                  [
                    ["as it is", draws.joint],
                    ["members drawn apart, as if none knew of the others", draws.apart],
                    [`${decimal(draws.size, 2)} times as large`, draws.atSize],
                  ] as const
                ).map(([name, one]) => {
                  const figures = [
                    one.netPercent.low,
                    one.netPercent.middle,
                    one.maxDrawdownPercent.middle,
                    one.drawdown95,
                    100 * one.lost,
                  ];
                  return { key: name, cells: [name, ...figures.map((x) => decimal(x, 1))], file: [name, ...figures] };
                })}
              />
              <p className="px-3.5 py-2" data-size={draws.size}>
                All positions may be <b className="figure-text">{decimal(draws.size, 2)}</b> times as large before more than one draw of
                twenty falls deeper than {decimal(view.asked.drawdown, 0)} %
                {draws.size >= 20 ? " (or more: it was not looked further)" : ""}. Margin and whole units may not allow it;{" "}
                <i>under other numbers</i> above tells.
              </p>
            </Panel>
          )}
        </div>
      )}
    </>
  );
}
