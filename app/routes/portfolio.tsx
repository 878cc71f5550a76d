import { useMemo, useState } from "react";
import { data } from "react-router";
import { portfolioCandidates } from "#server/candidates";
import { isRefused } from "#server/problem";
import { METRICS } from "#core/metrics";
import { EquityChart, type Curve } from "~/charts/equity-chart";
import { Button } from "~/design/button";
import { decimal, metricText, signed, signedMoney } from "~/design/format";
import { MetricName } from "~/design/metric-table";
import { PageHead, Panel, Problems } from "~/design/panel";
import { Strata } from "~/design/strata";
import { Tip } from "~/design/tip";
import { Builder } from "~/portfolios/builder";
import { YearTable } from "~/runs/year-table";
import { REPORT_KEYS } from "~/runs/report-keys";
import type { Route } from "./+types/portfolio";

export const meta: Route.MetaFunction = ({ data: page }) => [{ title: `${page?.portfolio.name ?? "Portfolio"} · Canyon` }];

export async function loader({ context, params }: Route.LoaderArgs) {
  const { services } = context;
  const portfolio = await services.portfolios.get(Number(params.id));
  if (portfolio === null) throw new Response("There is no such portfolio.", { status: 404 });
  const [candidates, markets, layers] = await Promise.all([
    portfolioCandidates(services),
    services.markets.list(),
    services.probes.layers(),
  ]);
  const { result, alone } = await services.portfolios.compute(portfolio.document);
  const { orders: _orders, events: _events, trades, concentration, ...rest } = result;
  return {
    portfolio,
    candidates,
    markets,
    layers: portfolio.document.members.map((member) => layers.get(member.versionId) ?? []),
    result: { ...rest, trades: trades.length, peak: concentration.reduce<number>((most, x) => Math.max(most, x ?? 0), 0) },
    alone,
  };
}

export async function action({ context, params, request }: Route.ActionArgs) {
  const form = await request.formData();
  try {
    await context.services.portfolios.save(
      Number(params.id),
      Number(form.get("revision")),
      String(form.get("name")),
      JSON.parse(String(form.get("document"))),
    );
    return { problems: [] };
  } catch (error) {
    if (isRefused(error)) return data({ problems: error.problems }, { status: error.status });
    throw error;
  }
}

const STRIP = ["netProfit", "cagr", "maxDrawdownPercent", "profitToDrawdown", "sharpe", "trades", "longestDrawdownDays"];

export default function PortfolioPage({ loaderData: { portfolio, candidates, markets, layers, result, alone } }: Route.ComponentProps) {
  const [editing, setEditing] = useState(false);
  const { document } = portfolio;
  const { settings } = document;
  const currency = settings.currency ?? "";
  const times = useMemo(() => Float64Array.from(result.equity.time, (text) => Date.parse(text)), [result.equity.time]);
  const curves = useMemo<Curve[]>(() => {
    const at = new Map(result.equity.time.map((time, i) => [time, i]));
    return [
      { name: "together", values: result.equity.equity, role: "main" },
      ...alone.map((member): Curve => {
        // a member's own clock may lack dates that others trade on: its last value stands there
        const values = new Array<number | null>(result.equity.time.length).fill(null);
        member.time.forEach((time, i) => {
          const place = at.get(time);
          if (place !== undefined) values[place] = member.equity[i];
        });
        for (let i = 0, last: number | null = settings.capital; i < values.length; i++) values[i] = last = values[i] ?? last;
        return { name: `${member.name} alone`, values, role: "member" };
      }),
    ];
  }, [result.equity, alone, settings.capital]);
  const largest = Math.max(...result.members.map((member) => Math.abs(member.contribution.profit)), 1e-9);
  const deepest = Math.max(...result.members.map((member) => Math.abs(member.contribution.drawdown)), 1e-9);
  return (
    <>
      <PageHead
        title={portfolio.name}
        about={`${document.members.length} versions on one account of ${decimal(settings.capital, 0)} ${currency} · leverage ${settings.leverage} · weights by hand · ${times.length > 0 ? `${result.equity.time[0].slice(0, 10)} to ${result.equity.time.at(-1)!.slice(0, 10)}` : ""}`}
        actions={
          <Button look="primary" onClick={() => setEditing((on) => !on)} aria-expanded={editing}>
            {editing ? "Close the set-up" : "Change members…"}
          </Button>
        }
      />
      {editing && (
        <div className="mb-3">
          <Builder
            key={portfolio.revision}
            start={{
              name: portfolio.name,
              members: document.members,
              capital: String(settings.capital),
              leverage: String(settings.leverage),
              from: settings.from ?? "",
              to: settings.to ?? "",
            }}
            candidates={candidates}
            markets={markets}
            revision={portfolio.revision}
            saveLabel="Save and compute"
          />
        </div>
      )}
      {result.halted && (
        <Problems
          title="The account was halted"
          problems={[{ path: "", message: "nothing was left of it, and every position was closed" }]}
        />
      )}
      <section aria-label="Figures together" className="mb-3 rounded-[4px] border border-edge bg-sheet">
        <dl className="grid grid-cols-7">
          {STRIP.map((key) => (
            <div key={key} className="border-l border-edge px-3.5 py-2 first:border-l-0">
              <Tip text={METRICS[key].definition}>
                <dt tabIndex={0} className="truncate text-sm text-ink-soft">
                  <span>{METRICS[key].label}</span>
                  {METRICS[key].unit === "money"
                    ? `, ${currency}`
                    : METRICS[key].unit === "percent"
                      ? ", %"
                      : METRICS[key].unit === "days"
                        ? ", days"
                        : ""}
                </dt>
              </Tip>
              <dd className="figure-text m-0 text-lg font-semibold">{metricText(key, result.metrics.all[key])}</dd>
            </div>
          ))}
        </dl>
        <div className="overflow-x-auto border-t border-edge">
          <table className="w-full border-collapse">
            <thead className="text-sm text-ink-soft">
              <tr>
                {[
                  "evidence",
                  "member",
                  "weight, %",
                  "trades",
                  "profit factor",
                  "alone: profit ÷ drawdown",
                  "alone: drawdown, %",
                  "of the profit, % of capital",
                  `in the deepest drawdown, ${currency}`,
                ].map((head, i) => (
                  <th key={head} scope="col" className={`px-3 py-1.5 font-normal ${i < 2 ? "text-left" : "text-right"}`}>
                    {head}
                  </th>
                ))}
              </tr>
            </thead>
            <tbody>
              {result.members.map((member, i) => (
                <tr key={member.name} className="border-t border-edge/60">
                  <td className="py-1 pl-3">
                    <Strata layers={layers[i]} height={22} />
                  </td>
                  <th scope="row" className="px-3 text-left font-normal">
                    <b>{member.name}</b> <span className="text-ink-soft">{document.members[i].markets.join(", ")}</span>
                  </th>
                  <td className="figure-text px-3 text-right">{decimal(result.weights[i] * 100, 1)}</td>
                  <td className="figure-text px-3 text-right">{metricText("trades", member.metrics.trades)}</td>
                  <td className="figure-text px-3 text-right">{metricText("profitFactor", member.metrics.profitFactor)}</td>
                  <td className="figure-text px-3 text-right">{metricText("profitToDrawdown", alone[i].metrics.profitToDrawdown)}</td>
                  <td className="figure-text px-3 text-right">{metricText("maxDrawdownPercent", alone[i].metrics.maxDrawdownPercent)}</td>
                  <td className="px-3 text-right">
                    <Bar share={member.contribution.profit / largest} />{" "}
                    <span className="figure-text">{signed(member.contribution.profit, 1)}</span>
                  </td>
                  <td className="px-3 text-right">
                    <Bar share={member.contribution.drawdown / deepest} />{" "}
                    <span className="figure-text">{signedMoney(member.contribution.drawdown)}</span>
                  </td>
                </tr>
              ))}
            </tbody>
          </table>
        </div>
      </section>
      <div className="grid grid-cols-[minmax(0,1fr)_340px] items-start gap-3">
        <Panel title="Together and one by one" note="members alone, each on the whole account">
          <EquityChart
            times={times}
            curves={curves}
            capital={settings.capital}
            currency={currency}
            height={330}
            fileName={`${portfolio.name}-equity`}
          />
        </Panel>
        <div className="flex flex-col gap-3">
          <Panel title="Correlation of daily results">
            <Correlation names={result.members.map((member) => member.name)} values={result.correlation} />
            <p className="mt-2 text-sm text-ink-soft">Of the daily changes of each member's own profit on this account.</p>
          </Panel>
          <Panel title="Concentration">
            <p>
              The largest position in one market was <b className="figure-text">{decimal(result.peak * 100, 0)} %</b> of the equity.
            </p>
          </Panel>
        </div>
      </div>
      <Panel title="All figures" note="together" className="mt-3">
        <div className="columns-3 gap-8">
          {REPORT_KEYS.map((key) => (
            <p key={key} className="flex justify-between gap-3 border-b border-edge/60 py-[3px]">
              <MetricName metric={key} currency={currency} />
              <span className="figure-text">{metricText(key, result.metrics.all[key])}</span>
            </p>
          ))}
        </div>
      </Panel>
      <Panel title="Year by month, %" className="mt-3">
        <YearTable
          months={new Map(result.tables.months.map((row) => [row.period, row.percent]))}
          years={new Map(result.tables.years.map((row) => [row.period, row.percent]))}
          text={(x) => decimal(x, 1)}
          total={(x) => signed(x, 1)}
        />
      </Panel>
    </>
  );
}

function Bar({ share }: { share: number }) {
  return (
    <span
      aria-hidden
      className={`inline-block h-2.5 align-middle ${share < 0 ? "hatch-clay border border-clay" : "bg-river"}`}
      style={{ width: Math.max(1, Math.abs(share) * 70) }}
    />
  );
}

function Correlation({ names, values }: { names: readonly string[]; values: readonly (readonly (number | null)[])[] }) {
  return (
    <table className="w-full border-separate border-spacing-[3px]">
      <thead className="text-sm text-ink-soft">
        <tr>
          <th scope="col">
            <span className="sr-only">member</span>
          </th>
          {names.map((name, i) => (
            <th key={name} scope="col" title={name} className="text-right font-normal">
              {i + 1}
            </th>
          ))}
        </tr>
      </thead>
      <tbody>
        {names.map((name, i) => (
          <tr key={name}>
            <th scope="row" className="max-w-[150px] truncate text-left font-normal" title={name}>
              <span className="text-ink-soft">{i + 1}</span> {name}
            </th>
            {values[i].map((value, k) => (
              <td
                key={k}
                className="figure-text px-1 text-right"
                style={
                  i === k || value === null
                    ? { background: "var(--shade)" }
                    : { background: `color-mix(in srgb, var(--plum) ${Math.round(Math.max(0, value) * 60)}%, transparent)` }
                }
              >
                {i === k ? "" : decimal(value, 2)}
              </td>
            ))}
          </tr>
        ))}
      </tbody>
    </table>
  );
}
