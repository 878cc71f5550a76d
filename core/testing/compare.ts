import { expect } from "vitest";
import type { RunResult, Trade } from "#core/documents";
import { near, type fixtureJson } from "./fixtures";

/** Expects numbers to agree to a relative tolerance, everything else to be equal. */
export function expectClose(got: unknown, want: unknown, tolerance: number, what: string) {
  if (typeof want === "number" && typeof got === "number") expect(near(got, want, tolerance), `${what}: ${got}, not ${want}`).toBe(true);
  else expect(got, what).toBe(want);
}

export const counts = (values: string[]) => values.reduce<Record<string, number>>((all, x) => ({ ...all, [x]: (all[x] ?? 0) + 1 }), {});

const order = (a: Trade, b: Trade) =>
  a.entryTime < b.entryTime ? -1 : a.entryTime > b.entryTime ? 1 : a.symbol < b.symbol ? -1 : a.symbol > b.symbol ? 1 : a.id - b.id;

/** Expects a result to be the known one: trades, equity, figures, tables, counts of events and orders. */
export function compareResult(got: RunResult, want: ReturnType<typeof fixtureJson>) {
  const trades = [...got.trades].sort(order);
  const wanted: Trade[] = [...want.trades].sort(order);
  for (const [i, trade] of wanted.entries()) {
    if (trades[i] === undefined) break;
    for (const key of Object.keys(trade) as (keyof Trade)[])
      if (key !== "id")
        expectClose(
          trades[i][key],
          trade[key],
          key === "percent" || key === "r" ? 1e-7 : 1e-9,
          `trade ${i} (${trade.symbol} ${trade.entryTime}) ${key}`,
        );
  }
  expect(trades.length).toBe(wanted.length);
  expect(got.halted).toBe(want.halted);
  expect(got.equity.time).toEqual(want.equity.time);
  want.equity.equity.forEach((x: number, i: number) => expectClose(got.equity.equity[i], x, 1e-9, `equity ${i}`));
  want.equity.balance.forEach((x: number, i: number) => expectClose(got.equity.balance[i], x, 1e-9, `balance ${i}`));
  for (const part of ["all", "long", "short"] as const) {
    expect(Object.keys(got.metrics[part]).sort()).toEqual(Object.keys(want.metrics[part]).sort());
    for (const [key, value] of Object.entries(want.metrics[part])) expectClose(got.metrics[part][key], value, 1e-7, `${part} ${key}`);
  }
  for (const table of ["months", "years"] as const) {
    expect(got.tables[table].map((row) => row.period)).toEqual(want.tables[table].map((row: { period: string }) => row.period));
    want.tables[table].forEach((row: { percent: number; uncompounded: number }, i: number) => {
      expectClose(got.tables[table][i].percent, row.percent, 1e-7, `${table} ${i} percent`);
      expectClose(got.tables[table][i].uncompounded, row.uncompounded, 1e-7, `${table} ${i} uncompounded`);
    });
  }
  expect(counts(got.events.map((event) => event.kind))).toEqual(want.eventCounts);
  expect(counts(got.orders.filter((o) => o.purpose === "entry").map((o) => o.status))).toEqual(want.orderCounts);
}
