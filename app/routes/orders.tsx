import { Printer } from "lucide-react";
import { Link } from "react-router";
import type { SheetChanges, SheetOrder, SheetPosition } from "#core/orders";
import { orderSheets, type AskedSheet, type OrderSheets } from "#server/orders";
import { isRefused } from "#server/problem";
import type { Services } from "#server/services";
import { Button } from "~/design/button";
import { decimal, signed, signedMoney } from "~/design/format";
import { Field } from "~/design/field";
import { Empty, PageHead, Panel, Problems } from "~/design/panel";
import { PlainTable } from "~/design/plain-table";
import { useAddress } from "~/design/use-address";
import type { Route } from "./+types/orders";

export const meta: Route.MetaFunction = () => [{ title: "Order sheet · Canyon" }];

export async function loader({ context, request }: Route.LoaderArgs) {
  const on = new URL(request.url).searchParams.get("on");
  const [sheets, markets] = await Promise.all([askedSheets(context.services, on), context.services.markets.list()]);
  return {
    on,
    ...sheets,
    digits: Object.fromEntries(markets.map(({ symbol, spec }) => [symbol, (String(spec.tick).split(".")[1] ?? "").length])),
  };
}

/** The sheets, or what is wrong with the date that an address asks for. */
async function askedSheets(
  services: Services,
  on: string | null,
): Promise<OrderSheets & { problems: { path: string; message: string }[] }> {
  try {
    return { ...(await orderSheets(services, on)), problems: [] };
  } catch (error) {
    if (!isRefused(error)) throw error;
    return { sheets: [], left: [], sealed: [], problems: error.problems };
  }
}

/** What to do in the next session of each market: everything that survivors and portfolios ask for. */
export default function OrdersPage({ loaderData: { sheets, left, sealed, digits, on, problems } }: Route.ComponentProps) {
  const { params, set } = useAddress();
  const only = params.get("for");
  const shown = only === null ? sheets : sheets.filter(({ path }) => path === only);
  const taken = [...new Set(sheets.flatMap((sheet) => sheet.taken))];
  const price = (symbol: string, x: number | null) => (x === null ? "–" : decimal(x, digits[symbol] ?? 2));
  const count = sheets.reduce((sum, { orders }) => sum + orders.length, 0);
  return (
    <>
      <PageHead
        title="Order sheet"
        about={`what ${sheets.length} ${sheets.length === 1 ? "account asks" : "accounts ask"} for in the next session: ${count} ${count === 1 ? "order" : "orders"}`}
        actions={
          <span className="flex items-end gap-2 print:hidden">
            <Field
              label="As it was after"
              type="date"
              className="w-36"
              value={on ?? ""}
              onChange={(event) => set("on", event.target.value || null)}
            />
            <Button onClick={() => window.print()}>
              <Printer size={14} aria-hidden /> Print
            </Button>
            <Button asChild>
              <a href={`/orders/file/orders.csv${on === null ? "" : `?on=${on}`}`}>CSV</a>
            </Button>
            <Button asChild>
              <a href={`/orders/file/orders.json${on === null ? "" : `?on=${on}`}`}>JSON</a>
            </Button>
          </span>
        }
      />
      <Problems problems={problems} />
      {problems.length > 0 ? null : sheets.length === 0 && left.length === 0 ? (
        <Empty title="Nobody asks for anything" action={<Link to="/library">To the library</Link>}>
          The sheet lists what survivors, what is in a forward test, and portfolios want done in the next session. There is none of them
          yet.
        </Empty>
      ) : (
        <>
          <div className="mb-3 flex flex-col gap-1 text-sm text-ink-soft">
            <p>
              Computed by the engine that runs backtests, stopped after the last bar. It is for all markets of each account: exclusion lists
              do not apply here
              {taken.length > 0 && `, so ${taken.join(", ")} ${taken.length === 1 ? "is" : "are"} on it, too`}. Orders at a close itself are
              decided only then and never stand here.
            </p>
            {sealed.length > 0 && (
              <p className="border-l-4 border-ochre px-3 text-ink">
                What lies behind a seal is not looked at, here either: {sealedWords(sealed)}. To trade, move the seals on to the present.
              </p>
            )}
          </div>
          {sheets.length > 1 && (
            <nav aria-label="Accounts" className="mb-3 flex flex-wrap gap-1.5 print:hidden">
              {[{ path: null, name: "all" }, ...sheets].map(({ path, name }) => (
                <button
                  key={path ?? "all"}
                  type="button"
                  aria-pressed={only === path}
                  onClick={() => set("for", path)}
                  className={`rounded-[4px] border px-2 py-0.5 text-sm ${only === path ? "border-ink bg-shade" : "border-edge hover:border-ink-faint"}`}
                >
                  {name}
                </button>
              ))}
            </nav>
          )}
          <div className="flex flex-col gap-3">
            {shown.map((sheet) => (
              <Sheet key={sheet.path} sheet={sheet} price={price} />
            ))}
          </div>
          {left.length > 0 && (
            <Panel className="mt-3" title="Not on the sheet">
              <ul className="list-disc pl-5">
                {left.map(({ name, path, why }) => (
                  <li key={path}>
                    <Link to={path}>{name}</Link>: {why}
                  </li>
                ))}
              </ul>
            </Panel>
          )}
        </>
      )}
    </>
  );
}

/** Seals by their date: `FERRY, KELP from 2025-01-01 on`. */
function sealedWords(sealed: readonly { symbol: string; from: string }[]): string {
  const dates = [...new Set(sealed.map(({ from }) => from))].sort();
  return dates
    .map((date) => {
      const own = sealed.filter(({ from }) => from === date).map(({ symbol }) => symbol);
      return `${own.length > 6 ? `${own.length} markets` : own.join(", ")} from ${date} on`;
    })
    .join("; ");
}

type Price = (symbol: string, x: number | null) => string;

const WHAT: Record<SheetOrder["purpose"], Record<SheetOrder["side"], string>> = {
  enter: { long: "buy", short: "sell short" },
  leave: { long: "sell, to leave", short: "buy, to leave" },
};

function orderText(order: SheetOrder, price: Price): string {
  const at = order.type === "market" ? "at the open" : `${order.type} at ${price(order.symbol, order.price)}`;
  return `${WHAT[order.purpose][order.side]} ${decimal(order.units, 0)} ${order.symbol} ${at}`;
}

/** One account's orders, positions, and what changed since the session before. */
function Sheet({ sheet, price }: { sheet: AskedSheet; price: Price }) {
  const { orders, positions, changes, markets } = sheet;
  const next = (symbol: string) => markets.find((market) => market.symbol === symbol)?.next ?? "–";
  const sessions = [...new Set(markets.map((market) => market.next))].sort();
  const members = sheet.kind === "portfolio";
  const said = changes === null ? [] : changesSaid(changes, price);
  return (
    <Panel
      flush
      title={<Link to={sheet.path}>{sheet.name}</Link>}
      note={`after ${sheet.date}, for ${sessions.length > 2 ? `${sessions[0]} to ${sessions[sessions.length - 1]}` : sessions.join(" and ")} · equity ${decimal(sheet.equity, 0)}${sheet.halted ? " · the account was halted" : ""}`}
      aside={
        <span className="figure-text" title={sheet.fingerprint}>
          {sheet.fingerprint.slice(0, 8)}
        </span>
      }
    >
      {orders.length === 0 ? (
        <p className="px-3.5 pb-1 text-ink-soft">No order: nothing is to be done at the next open, and nothing works.</p>
      ) : (
        <PlainTable
          label={`Orders of ${sheet.name}`}
          fileName={`${sheet.name}-orders`}
          heads={["orders", ...(members ? ["member"] : []), "session", "stop", "target", "works", "because", "with"]}
          words={members ? 3 : 2}
          rows={orders.map((order, i) => {
            const levels = (x: number | null) => (x === null ? "–" : `${order.about ? "about " : ""}${price(order.symbol, x)}`);
            const works = order.type === "market" ? "once" : order.barsLeft === null ? "until filled" : `${order.barsLeft} more bars`;
            const values = order.values.map(({ text, value }) => `${text} = ${value === null ? "missing" : decimal(value, 4)}`).join("; ");
            const what = `${orderText(order, price)}${order.closes > 0 ? `, which closes ${decimal(order.closes, 0)}` : ""}`;
            return {
              key: i,
              cells: [
                <b key="what">{what}</b>,
                ...(members ? [order.member] : []),
                next(order.symbol),
                levels(order.stop),
                levels(order.target),
                works,
                <code key="rule" className="figure-text inline-block max-w-[300px] whitespace-normal text-left text-sm">
                  {order.rule}
                </code>,
                <span key="values" className="inline-block max-w-[260px] whitespace-normal text-left text-sm">
                  {values}
                </span>,
              ],
              file: [what, ...(members ? [order.member] : []), next(order.symbol), order.stop, order.target, works, order.rule, values],
            };
          })}
        />
      )}
      {positions.length === 0 ? (
        <p className="px-3.5 pb-1 text-ink-soft">No position should be open.</p>
      ) : (
        <PlainTable
          label={`Positions of ${sheet.name}`}
          fileName={`${sheet.name}-positions`}
          heads={[
            "position",
            ...(members ? ["member"] : []),
            "since",
            "entry",
            "last close",
            "stop in the market",
            "target in the market",
            "open profit",
            "R",
            "leaves",
          ]}
          words={members ? 3 : 2}
          rows={positions.map((position) => {
            const what = `${position.side} ${decimal(position.units, 0)} ${position.symbol}`;
            return {
              key: `${position.member} ${position.trade}`,
              cells: [
                <b key="what">{what}</b>,
                ...(members ? [position.member] : []),
                position.entered,
                price(position.symbol, position.entryPrice),
                price(position.symbol, position.close),
                `${price(position.symbol, position.stop)}${position.stopKind === "trail" ? " (trailing)" : position.stopKind === "breakeven" ? " (break-even)" : ""}`,
                price(position.symbol, position.target),
                signedMoney(position.profit),
                signed(position.r, 2),
                leaving(position),
              ],
              file: [
                what,
                ...(members ? [position.member] : []),
                position.entered,
                position.entryPrice,
                position.close,
                position.stop,
                position.target,
                position.profit,
                position.r,
                leaving(position),
              ],
            };
          })}
        />
      )}
      <p className="px-3.5 pt-2 pb-2.5 text-sm">
        <span className="text-ink-soft">
          {changes === null ? "The account's first session." : `Since the session of ${changes.since}: `}
        </span>
        {changes !== null && (said.length === 0 ? "nothing changed." : `${said.join("; ")}.`)}
      </p>
    </Panel>
  );
}

/** What is different from the session before, in words. */
function changesSaid(changes: SheetChanges, price: Price): string[] {
  return [
    ...changes.newOrders.map((order) => `new: ${orderText(order, price)}`),
    ...changes.goneOrders.map((order) => `no longer: ${orderText(order, price)}`),
    ...changes.opened.map(
      (trade) => `opened: ${trade.side} ${decimal(trade.units, 0)} ${trade.symbol} at ${price(trade.symbol, trade.entryPrice)}`,
    ),
    ...changes.closed.map(
      (trade) =>
        `closed: ${trade.side} ${decimal(trade.units, 0)} ${trade.symbol} at ${price(trade.symbol, trade.exitPrice)} (${trade.exitReason}), ${signedMoney(trade.net)}`,
    ),
    ...changes.moved.map(
      ({ position, level, before }) =>
        `${level} of ${position.side} ${position.symbol} ${price(position.symbol, before)} → ${price(position.symbol, position[level])}`,
    ),
  ];
}

/** What ends a position beside stop, target and rules. */
function leaving(position: SheetPosition): string {
  const parts: string[] = [];
  if (position.leavesAfterBars !== null) {
    const left = position.leavesAfterBars - position.barsHeld;
    parts.push(left <= 1 ? "at the close of the next bar" : `at the close, ${left} bars from now`);
  }
  if (position.leavesAt !== null) parts.push(`at ${position.leavesAt}`);
  if (position.leavesOnWeekday !== null) parts.push(`on weekday ${position.leavesOnWeekday.weekday} at ${position.leavesOnWeekday.time}`);
  return parts.join(", ") || "by its rules";
}
