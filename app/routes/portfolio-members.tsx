import { Link } from "react-router";
import { membersView } from "#server/portfolio-changes";
import { poolOf } from "#server/portfolio-pool";
import { headOfPage, loadPortfolio } from "#server/portfolio-report";
import { dateText, decimal, signedMoney } from "~/design/format";
import { Panel } from "~/design/panel";
import { PlainTable } from "~/design/plain-table";
import { Head } from "~/portfolios/head";
import { StretchRows, type NamedRow } from "~/portfolios/stretch-rows";
import type { Route } from "./+types/portfolio-members";

export const meta: Route.MetaFunction = ({ data: page }) => [
  { title: page ? `Members, ${page.head.name} · Canyon` : "Portfolio · Canyon" },
];
export { unlessSearch as shouldRevalidate } from "~/shell/revalidate";

export async function loader({ context, params }: Route.LoaderArgs) {
  const page = await loadPortfolio(context.services, params.id);
  const pool = await poolOf(context.services, page.document.settings, page.computed.members[0].strategy.timeframe, false);
  return { head: headOfPage(page), view: membersView(page, pool), names: page.document.members.map(({ name }) => name) };
}

/** What each member does to the whole, and who could take its place. */
export default function MembersPage({ loaderData: { head, view, names } }: Route.ComponentProps) {
  const edit = (more: Record<string, string>) => `/portfolios/${head.id}/edit?${new URLSearchParams(more).toString()}`;
  const [own] = view.changed;
  const judged = own.judged !== null;
  const rows = view.changed.map((one): NamedRow => {
    const row = judged ? one.judged! : one.row;
    const before = judged ? own.judged! : own.row;
    const better = (row.profitToDrawdown ?? -Infinity) > (before.profitToDrawdown ?? -Infinity);
    return {
      key: `${one.what} ${one.name}`,
      name: one.what === "as it is" ? "as it is" : `${one.what} ${one.name}`,
      plain: one.what === "as it is" ? "as it is" : `${one.what} ${one.name}`,
      row,
      strong: one.what === "as it is",
      after:
        one.what === "as it is" ? null : (
          <>
            {better && <span className="mr-2 text-moss">better</span>}
            <Link className="quiet-link" to={edit(one.what === "without" ? { leave: one.name } : { take: String(one.versionId) })}>
              {one.what === "without" ? "leave it out" : "take it in"}
            </Link>
          </>
        ),
    };
  });
  return (
    <>
      <Head head={head} />
      <Panel
        flush
        title="With and without"
        note={`the account simulated again${judged ? ", on the dates on which weights are judged" : ""}; what leaves gives its weight to the others, what comes gets an equal part`}
      >
        <StretchRows label="With and without" first="account" rows={rows} fileName={`${head.name}-with-and-without`} after="change" />
        {view.changed.every(({ what }) => what !== "with") && (
          <p className="px-3.5 py-2 text-sm text-ink-soft">No other survivor is in the library that could be taken in.</p>
        )}
      </Panel>
      <Panel
        flush
        className="mt-3"
        title="In the deepest falls"
        note={`what each member's profit did from peak to lowest point, ${head.currency}; together the fall`}
      >
        <PlainTable
          label="In the deepest falls"
          fileName={`${head.name}-falls-by-member`}
          heads={["peak", "lowest", "fall, %", "fall", ...names]}
          words={2}
          rows={view.falls.map(({ fall, members }) => ({
            key: fall.start,
            cells: [
              dateText(fall.start),
              dateText(fall.low),
              decimal(fall.percent, 1),
              signedMoney(-fall.money),
              ...members.map((x) => signedMoney(x)),
            ],
            file: [dateText(fall.start), dateText(fall.low), fall.percent, -fall.money, ...members],
          }))}
        />
      </Panel>
      <Panel
        flush
        className="mt-3"
        title="Reserve"
        note="for each member the survivors whose weekly results are most like its own: who could take its place when it fails"
      >
        <PlainTable
          label="Reserve"
          fileName={`${head.name}-reserve`}
          heads={["member", "survivor", "correlation", "alone: CAGR, %", "alone: drawdown, %", "change"]}
          words={2}
          rows={view.reserve.flatMap(({ member, spare }) =>
            spare.length === 0
              ? [{ key: member, cells: [member, "nobody in the library is like it", "", "", "", ""], file: [member, "", "", "", "", ""] }]
              : spare.map((one, k) => ({
                  key: `${member} ${one.versionId}`,
                  cells: [
                    k === 0 ? member : "",
                    `${one.name} v${one.version}, ${one.markets.length > 3 ? `${one.markets.length} markets` : one.markets.join(", ")}`,
                    decimal(one.correlation, 2),
                    decimal(one.row.cagr, 2),
                    decimal(one.row.maxDrawdownPercent, 1),
                    <Link key="replace" className="quiet-link" to={edit({ leave: member, take: String(one.versionId) })}>
                      put it in {member}'s place
                    </Link>,
                  ],
                  file: [member, one.name, one.correlation, one.row.cagr, one.row.maxDrawdownPercent, ""],
                })),
          )}
        />
      </Panel>
      {view.left.length > 0 && (
        <p className="mt-2 text-sm text-ink-soft">Not looked at: {view.left.map(({ name, why }) => `${name} (${why})`).join("; ")}.</p>
      )}
    </>
  );
}
