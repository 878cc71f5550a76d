import { useMemo } from "react";
import { portfolioLuck } from "#server/portfolio-luck";
import { headOfPage, loadPortfolio } from "#server/portfolio-report";
import { LinesChart } from "~/charts/lines-chart";
import { lineFrom } from "~/charts/sent-line";
import { decimal, signedMoney } from "~/design/format";
import { Panel } from "~/design/panel";
import { PlainTable } from "~/design/plain-table";
import { Head } from "~/portfolios/head";
import { useStretches } from "~/portfolios/use-stretches";
import { EdgeText } from "~/runs/edge-text";
import { LuckAnswers } from "~/runs/luck-answers";
import type { Route } from "./+types/portfolio-luck";

export const meta: Route.MetaFunction = ({ data: page }) => [
  { title: page ? `Costs and luck, ${page.head.name} · Canyon` : "Portfolio · Canyon" },
];
export { unlessSearch as shouldRevalidate } from "~/shell/revalidate";

export async function loader({ context, params }: Route.LoaderArgs) {
  const page = await loadPortfolio(context.services, params.id);
  return { head: headOfPage(page), view: await portfolioLuck(context.services, page) };
}

const money = (x: number) => signedMoney(x);

/** Whether it could be luck, with everything that was tried before it, and what costs take. */
export default function LuckPage({ loaderData: { head, view } }: Route.ComponentProps) {
  const stretches = useStretches(head);
  const { luck, trials, edge, kinds } = view;
  const lines = useMemo(() => view.costs.map((line) => lineFrom(line)), [view]);
  const total = trials.states + trials.looks + trials.members;
  return (
    <>
      <Head head={head} />
      <div className="grid grid-cols-[minmax(0,1fr)_340px] items-start gap-3">
        <Panel title="Is it luck?">
          <LuckAnswers answers={luck.answers} />
        </Panel>
        <Panel title="What was tried before it">
          <p>
            <b className="figure-text">{decimal(total, 0)}</b> trials: {decimal(trials.members, 0)} on the members' own lines,{" "}
            {decimal(trials.looks, 0)} selections looked at while choosing from the library, {decimal(trials.states, 0)}{" "}
            {trials.states === 1 ? "state" : "states"} of this portfolio.
          </p>
          <p className="mt-2 text-ink-soft">The more is tried, the better the best of it looks by chance alone.</p>
        </Panel>
        <Panel flush title="Costs" note={head.currency}>
          <PlainTable
            label="Costs"
            fileName={`${head.name}-costs`}
            heads={["kind", "so far", "% of the capital"]}
            rows={kinds.map(({ name, money: sum }) => ({
              key: name,
              cells: [name, decimal(sum, 0), decimal((100 * sum) / head.capital, 2)],
              file: [name, sum, (100 * sum) / head.capital],
            }))}
          />
          <div className="px-3.5 py-2">
            {lines.length > 0 && (
              <LinesChart
                stretches={stretches}
                label="Costs so far"
                lines={lines}
                height={160}
                tick={money}
                fileName={`${head.name}-costs-along`}
              />
            )}
          </div>
        </Panel>
        <Panel title="How much more would it bear">
          <EdgeText edge={edge} />
          <p className="mt-1 text-sm text-ink-soft">Solved by simulating the account again under other costs.</p>
        </Panel>
      </div>
    </>
  );
}
