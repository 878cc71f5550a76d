import { useMemo } from "react";
import { headOfPage, loadPortfolio, togetherView } from "#server/portfolio-report";
import { LinesChart } from "~/charts/lines-chart";
import { lineFrom } from "~/charts/sent-line";
import { decimal } from "~/design/format";
import { Panel } from "~/design/panel";
import { PlainTable } from "~/design/plain-table";
import { Head } from "~/portfolios/head";
import { useStretches } from "~/portfolios/use-stretches";
import { Matrix } from "~/portfolios/matrix";
import { useAddress } from "~/design/use-address";
import type { Route } from "./+types/portfolio-together";

export const meta: Route.MetaFunction = ({ data: page }) => [
  { title: page ? `Together, ${page.head.name} · Canyon` : "Portfolio · Canyon" },
];
export { unlessSearch as shouldRevalidate } from "~/shell/revalidate";

export async function loader({ context, params }: Route.LoaderArgs) {
  const page = await loadPortfolio(context.services, params.id);
  return { head: headOfPage(page), view: togetherView(page) };
}

const CHOICES = ["day", "week", "month"] as const;
const NAMES: Record<(typeof CHOICES)[number], string> = { day: "daily", week: "weekly", month: "monthly" };
const count = (x: number) => decimal(x, 0);
const percent = (x: number) => decimal(100 * x, 0);

/** Do they move together, above all in bad times? */
export default function TogetherPage({ loaderData: { head, view } }: Route.ComponentProps) {
  const stretches = useStretches(head);
  const { params, set } = useAddress();
  const by = CHOICES.find((one) => one === params.get("by")) ?? "week";
  const { names, order, bad, halves, overlap } = view;
  const lines = useMemo(() => overlap.lines.map((line) => lineFrom(line)), [overlap]);
  const pairs = order.flatMap((i, r) => order.slice(r + 1).map((j) => ({ i, j, value: view.by[by].values[i][j] })));
  const closest = pairs.reduce<(typeof pairs)[number] | null>(
    (most, pair) => ((pair.value ?? -2) > (most?.value ?? -2) ? pair : most),
    null,
  );
  return (
    <>
      <Head head={head} />
      <div className="grid grid-cols-2 items-start gap-3">
        <Panel
          title={`Correlation of ${NAMES[by]} results`}
          note={`${decimal(view.by[by].count, 0)} of them; what goes together stands together`}
          aside={
            <span className="flex gap-3">
              {CHOICES.map((one) => (
                <button
                  key={one}
                  type="button"
                  aria-pressed={by === one}
                  className={by === one ? "font-semibold text-ink" : "quiet-link"}
                  onClick={() => set("by", one === "week" ? null : one)}
                >
                  {NAMES[one]}
                </button>
              ))}
            </span>
          }
        >
          <Matrix
            label={`Correlation of ${NAMES[by]} results`}
            names={names}
            order={order}
            values={view.by[by].values}
            fileName={`${head.name}-correlation-${by}`}
          />
          {closest !== null && closest.value !== null && (
            <p className="mt-2">
              {closest.value >= 0.5 ? (
                <>
                  <b>{names[closest.i]}</b> and <b>{names[closest.j]}</b> say much the same.
                </>
              ) : (
                <>
                  The closest are {names[closest.i]} and {names[closest.j]}, with {decimal(closest.value, 2)}.
                </>
              )}
            </p>
          )}
          <p className="mt-1 text-sm text-ink-soft">Of the changes of each member's own profit on this account.</p>
        </Panel>
        {bad === null ? (
          <Panel title="In the worst tenth of days">
            <p className="text-ink-soft">There are too few days for a tenth of them to say anything; fifty are needed.</p>
          </Panel>
        ) : (
          <Panel title="In the worst tenth of days" note={`the ${decimal(bad.count, 0)} days with the account's lowest returns`}>
            <Matrix
              label="Correlation in the worst tenth of days"
              names={names}
              order={order}
              values={bad.correlation}
              fileName={`${head.name}-correlation-bad-days`}
            />
            <p className="mt-1 text-sm text-ink-soft">
              These days are picked by the sum of all members, which by itself pulls the correlations of members below 0: who lost much
              there left less for others to lose. Above 0 here means they really fall together.
            </p>
          </Panel>
        )}
        {bad !== null && (
          <Panel title="Bad days shared" note="of a member's own worst tenth of days, % that are among another's">
            <Matrix
              label="Bad days shared, %"
              names={names}
              order={order}
              values={bad.shared}
              text={(x) => decimal(100 * x, 0)}
              full={0.5}
              fileName={`${head.name}-bad-days-shared`}
            />
            <p className="mt-1 text-sm text-ink-soft">10 % would be chance alone.</p>
          </Panel>
        )}
        {halves !== null && (
          <Panel title="Where weights were estimated, and where they are judged" note="weekly results">
            <Matrix
              label="Correlation by stretch"
              names={names}
              order={order}
              values={halves.estimated}
              above={halves.judged}
              fileName={`${head.name}-correlation-stretches`}
            />
            <p className="mt-1 text-sm text-ink-soft">Below the diagonal: estimated stretch; above: judged.</p>
          </Panel>
        )}
        <Panel title="In the market at the same time" note="of the closes at which a member (row) holds something, % at which another does">
          <Matrix
            label="In the market at the same time, %"
            names={names}
            order={order}
            values={overlap.time}
            text={percent}
            fileName={`${head.name}-overlap`}
          />
        </Panel>
        <Panel flush title="The same markets">
          {pairs.some(({ i, j }) => overlap.markets[i][j].length > 0) ? (
            <PlainTable
              label="The same markets"
              fileName={`${head.name}-shared-markets`}
              heads={["members", "markets of both", "closes on the same side", "on opposite sides"]}
              words={2}
              rows={pairs
                .filter(({ i, j }) => overlap.markets[i][j].length > 0)
                .map(({ i, j }) => {
                  const markets = overlap.markets[i][j].join(", ");
                  const [same, opposite] = [overlap.same[i][j], overlap.opposite[i][j]];
                  return { key: `${i} ${j}`, cells: [`${names[i]} and ${names[j]}`, markets, count(same), count(opposite)], file: [`${names[i]} and ${names[j]}`, markets, same, opposite] }; // prettier-ignore
                })}
            />
          ) : (
            <p className="px-3.5 pb-3 text-ink-soft">No two members trade the same market.</p>
          )}
        </Panel>
        <Panel className="col-span-2" title="How many at once" note="members in the market and open positions at each close">
          <LinesChart
            stretches={stretches}
            label="How many at once"
            lines={lines}
            height={170}
            tick={count}
            fileName={`${head.name}-at-once`}
          />
        </Panel>
      </div>
    </>
  );
}
