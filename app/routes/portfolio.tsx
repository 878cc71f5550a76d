import { useMemo } from "react";
import { Link } from "react-router";
import { headOfPage, loadPortfolio, portfolioReport } from "#server/portfolio-report";
import { LinesChart } from "~/charts/lines-chart";
import { lineFrom } from "~/charts/sent-line";
import { decimal, metricText, signed, signedMoney } from "~/design/format";
import { Panel } from "~/design/panel";
import { PlainTable } from "~/design/plain-table";
import { Strata } from "~/design/strata";
import { useAddress } from "~/design/use-address";
import { Head } from "~/portfolios/head";
import { FigureStrip } from "~/portfolios/figure-strip";
import { useStretches } from "~/portfolios/use-stretches";
import { StretchRows } from "~/portfolios/stretch-rows";
import { MetricName } from "~/design/metric-table";
import { REPORT_KEYS } from "~/runs/report-keys";
import { YearTable } from "~/runs/year-table";
import type { Route } from "./+types/portfolio";

export const meta: Route.MetaFunction = ({ data: page }) => [{ title: page ? `${page.head.name} · Canyon` : "Portfolio · Canyon" }];
export { unlessSearch as shouldRevalidate } from "~/shell/revalidate";

export async function loader({ context, params }: Route.LoaderArgs) {
  const page = await loadPortfolio(context.services, params.id);
  return { head: headOfPage(page), report: await portfolioReport(context.services, page) };
}

const hundred = (x: number) => decimal(x, 0);
const percent = (x: number) => decimal(-x, 0);

/** A portfolio's report: what it came to, what each member did in it, together and one by one. */
export default function PortfolioPage({ loaderData: { head, report } }: Route.ComponentProps) {
  const { rows, lines, falls, stretches, metrics, tables, weightsAlong } = report;
  const { params, set } = useAddress();
  const shown = params.get("against") ?? "members";
  const tinted = useStretches(head, true);
  const bare = useStretches(head);
  const curves = useMemo(() => {
    const out = [{ ...lineFrom(lines.together), look: "main" as const }];
    if (shown === "members") return [...out, ...lines.members.map((line) => lineFrom(line))];
    return [
      ...out,
      { ...lineFrom(lines.equal), look: "second" as const },
      ...(lines.benchmark === null ? [] : [{ ...lineFrom(lines.benchmark), look: "benchmark" as const }]),
    ];
  }, [lines, shown]);
  const deep = useMemo(
    () => [
      { ...lineFrom(falls.together), look: "main" as const },
      { ...lineFrom(falls.equal), look: "second" as const },
    ],
    [falls],
  );
  const positive = curves.every((line) => Array.from(line.value).every((x) => x === null || x > 0));
  const largest = Math.max(...rows.map((row) => Math.abs(row.profit)), 1e-9);
  const worst = Math.max(...rows.map((row) => Math.abs(row.deepest)), 1e-9);
  return (
    <>
      <Head head={head} />
      <FigureStrip metrics={metrics} currency={head.currency} stretches={stretches} />
      <Panel flush className="mb-3">
        <PlainTable
          label="Members"
          fileName={`${head.name}-members`}
          words={2}
          heads={[
            "evidence",
            "member",
            "weight, %",
            "trades",
            "alone: CAGR, %",
            "alone: drawdown, %",
            "of the profit, % of capital",
            "of the volatility, %",
            `in the deepest fall, ${head.currency}`,
          ]}
          rows={rows.map((row) => ({
            key: row.name,
            cells: [
              <Strata key="strata" layers={row.layers} height={22} />,
              <span key="name">
                <Link className="font-semibold no-underline hover:underline" to={`/strategies/${row.strategyId}?v=${row.version}`}>
                  {row.name}
                </Link>{" "}
                <span className="text-ink-soft">
                  v{row.version} · {row.markets.length > 3 ? `${row.markets.length} markets` : row.markets.join(", ")}
                  {row.status === "survivor" || row.status === "forward test" ? "" : ` · ${row.status}`}
                  {row.condition === null ? "" : ` · ${row.condition}`}
                </span>
              </span>,
              decimal(row.weight * 100, 1),
              metricText("trades", row.trades),
              metricText("cagr", row.alone.cagr),
              metricText("maxDrawdownPercent", row.alone.maxDrawdownPercent),
              <Part key="profit" share={row.profit / largest} text={signed(row.profit, 1)} />,
              decimal(row.volatility, 2),
              <Part key="fall" share={row.deepest / worst} text={signedMoney(row.deepest)} />,
            ],
            file: [
              row.layers.map(({ name, state }) => `${name}: ${state}`).join("; "),
              row.name,
              row.weight * 100,
              row.trades,
              row.alone.cagr,
              row.alone.maxDrawdownPercent,
              row.profit,
              row.volatility,
              row.deepest,
            ],
          }))}
        />
      </Panel>
      <Panel
        title="Together and one by one"
        note="start = 100; members alone, each on the whole account"
        aside={
          <span className="flex gap-3">
            {(
              [
                ["members", "the members"],
                ["others", "equal parts and holding"],
              ] as const
            ).map(([key, text]) => (
              <button
                key={key}
                type="button"
                aria-pressed={shown === key}
                className={shown === key ? "font-semibold text-ink" : "quiet-link"}
                onClick={() => set("against", key === "members" ? null : key)}
              >
                {text}
              </button>
            ))}
          </span>
        }
      >
        <LinesChart
          label="Equity together and one by one"
          lines={curves}
          height={300}
          stretches={tinted}
          logarithmic={positive}
          tick={hundred}
          fileName={`${head.name}-equity`}
        />
        <LinesChart label="Drawdown, %" lines={deep} height={130} stretches={bare} tick={percent} fileName={`${head.name}-drawdown`} />
      </Panel>
      <Panel flush className="mt-3" title="Against equal parts" note="the same members, the same account">
        <StretchRows
          label="Against equal parts"
          first="account"
          fileName={`${head.name}-against-equal`}
          rows={[
            { key: "own", name: "as weighted", plain: "as weighted", row: report.figures, strong: true },
            { key: "equal", name: "in equal parts", plain: "in equal parts", row: report.equalFigures },
            ...(stretches === null
              ? []
              : [
                  { key: "estimated", name: "as weighted, where weights were estimated", plain: "estimated", row: stretches.estimated },
                  { key: "judged", name: "as weighted, judged", plain: "judged", row: stretches.judged },
                ]),
          ]}
        />
      </Panel>
      {report.tooSmall.length > 0 && (
        <p className="mt-3 border-l-4 border-ochre px-3 py-1" role="note">
          {report.tooSmall.map(({ symbol, count }) => `${decimal(count, 0)} entries in ${symbol}`).join(", ")} came to less than the
          smallest size that is traded, and were left out: more capital or weight would let them in.
        </p>
      )}
      {weightsAlong.length > 1 && (
        <Panel flush className="mt-3" title="Weights along the way" note="each from its date on; what is open keeps its size">
          <PlainTable
            label="Weights along the way"
            fileName={`${head.name}-weights`}
            heads={["from", ...rows.map(({ name }) => `${name}, %`)]}
            maxHeight={260}
            rows={weightsAlong.map(({ from, weights }) => ({
              key: from ?? "",
              cells: [from, ...weights.map((w) => decimal(100 * w, 1))],
              file: [from, ...weights.map((w) => 100 * w)],
            }))}
          />
        </Panel>
      )}
      <Panel title="Year by month, %" className="mt-3">
        <YearTable
          months={new Map(tables.months.map((row) => [row.period, row.percent]))}
          years={new Map(tables.years.map((row) => [row.period, row.percent]))}
          text={(x) => decimal(x, 1)}
          total={(x) => signed(x, 1)}
        />
      </Panel>
      <Panel
        title="All figures"
        note="together"
        className="mt-3"
        aside={
          <span className="flex gap-3">
            <a className="quiet-link" href={`/portfolios/${head.id}/file/plan.json`}>
              plan file
            </a>
            <a className="quiet-link" href={`/portfolios/${head.id}/file/result.json`}>
              result file
            </a>
            <a className="quiet-link" href={`/portfolios/${head.id}/file/trades.csv`}>
              trades file
            </a>
          </span>
        }
      >
        <div className="columns-3 gap-8">
          {REPORT_KEYS.map((key) => (
            <p key={key} className="flex justify-between gap-3 border-b border-edge/60 py-[3px]">
              <MetricName metric={key} currency={head.currency} />
              <span className="figure-text">{metricText(key, metrics[key])}</span>
            </p>
          ))}
        </div>
      </Panel>
    </>
  );
}

function Part({ share, text }: { share: number; text: string }) {
  return (
    <>
      <span
        aria-hidden
        className={`inline-block h-2.5 align-middle ${share < 0 ? "hatch-clay border border-clay" : "bg-river"}`}
        style={{ width: Math.max(1, Math.abs(share) * 60) }}
      />{" "}
      <span className="inline-block min-w-[64px]">{text}</span>
    </>
  );
}
