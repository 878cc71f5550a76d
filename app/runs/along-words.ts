import type { AlongChart } from "#server/along";
import { decimal, signedMoney } from "~/design/format";

/** What each chart along the way shows. */
export const ALONG_WORDS: Record<AlongChart, { name: string; note: string }> = {
  exposure: { name: "Share of the equity", note: "notional of what was held at each close, % of the equity; short below 0" },
  positions: { name: "Positions", note: "markets held, and trades open in them" },
  margin: { name: "Margin", note: "in use at each close, % of the equity" },
  markets: { name: "Share by market", note: "% of the equity; short below 0" },
  sectors: { name: "Share by sector", note: "% of the equity, long less short" },
  profit: { name: "Profit by market", note: "so far, after costs, open trades valued" },
  sectorProfit: { name: "Profit by sector", note: "so far, after costs, open trades valued" },
  units: { name: "Units held", note: "of one market; short below 0" },
  costs: { name: "Costs", note: "so far, by kind" },
};

const percentTick = (x: number): string => decimal(x, 0);
const moneyTick = (x: number): string => signedMoney(x);
const countTick = (x: number): string => (Number.isInteger(x) ? decimal(x, 0) : "");
/** How a chart's values are written. */
export const alongTick = (chart: AlongChart) =>
  chart === "positions" ? countTick : chart === "profit" || chart === "sectorProfit" || chart === "costs" ? moneyTick : percentTick;
