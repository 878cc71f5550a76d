import { headOfPage, loadPortfolio } from "#server/portfolio-report";
import { decimal } from "~/design/format";
import { OrderedChoice, useChoice } from "~/design/ordered-choice";
import { Panel } from "~/design/panel";
import { Select } from "~/design/field";
import { useAddress } from "~/design/use-address";
import { Head } from "~/portfolios/head";
import { FIRST_COLUMNS, TRADE_COLUMNS } from "~/runs/trade-columns";
import { TradeTable } from "~/runs/trade-table";
import type { Route } from "./+types/portfolio-trades";

export const meta: Route.MetaFunction = ({ data: page }) => [{ title: page ? `Trades, ${page.head.name} · Canyon` : "Portfolio · Canyon" }];
export { unlessSearch as shouldRevalidate } from "~/shell/revalidate";

export async function loader({ context, params }: Route.LoaderArgs) {
  const page = await loadPortfolio(context.services, params.id);
  return {
    head: headOfPage(page),
    trades: page.computed.result.trades,
    names: page.document.members.map(({ name }) => name),
    ticks: Object.fromEntries(page.document.settings.markets.map(({ symbol, tick }) => [symbol, tick])),
    choices: await context.services.preferences.choices(),
  };
}

/** Every trade of the account, with the member that made it. */
export default function TradesPage({ loaderData: { head, trades, names, ticks, choices } }: Route.ComponentProps) {
  const { params, set } = useAddress();
  const columns = useChoice("tradeColumns", choices.tradeColumns, TRADE_COLUMNS.map(({ key }) => key), FIRST_COLUMNS); // prettier-ignore
  const member = params.get("member") ?? "";
  const shown = member === "" ? trades : trades.filter((trade) => trade.member === member);
  const selected = params.has("trade") ? Number(params.get("trade")) : null;
  const trade = trades.find(({ id }) => id === selected);
  return (
    <>
      <Head head={head} />
      <Panel
        flush
        title="Trades"
        note={`${decimal(shown.length, 0)} of ${decimal(trades.length, 0)}`}
        aside={
          <span className="flex items-end gap-3">
            <Select
              label="Member"
              hideLabel
              value={member === "" ? "all" : member}
              choices={[{ value: "all", label: "all members" }, ...names.map((name) => ({ value: name, label: name }))]}
              onChange={(value) => set("member", value === "all" ? null : value)}
              className="w-48"
            />
            <OrderedChoice
              title="Columns"
              about="They stand in this order, in every table of trades."
              items={TRADE_COLUMNS}
              chosen={columns.chosen}
              onChoose={columns.choose}
              label="columns"
            />
          </span>
        }
      >
        {trade !== undefined && (
          <p className="px-3.5 pb-1" data-trade={trade.id}>
            Trade {trade.id}: <b>{trade.member}</b>, {trade.side} {decimal(trade.units, 0)} {trade.symbol}, {trade.entryTime.slice(0, 10)}{" "}
            to {trade.exitTime === null ? "now" : trade.exitTime.slice(0, 10)}, {trade.exitReason ?? "still open"}.
          </p>
        )}
        <TradeTable
          trades={shown}
          columns={columns.chosen}
          ticks={ticks}
          selected={selected}
          onSelect={(id) => set("trade", String(id))}
          sort={params.get("sort") ?? "id"}
          onSort={(next) => set("sort", next === "id" ? null : next)}
          height={520}
          fileName={`${head.name}-trades`}
        />
      </Panel>
    </>
  );
}
