import type { Metrics, RunResult, Settings, Strategy } from "#core/documents";
import { METRICS } from "#core/metrics";
import { fallsOf, percentFalls, settingsFacts, standingApart } from "#core/reading";
import { strategyStatement } from "#core/wording";
import { thin } from "#core/reading";
import { dateText, decimal, metricLabel, metricText, momentText, signed, signedMoney } from "~/design/format";
import { KEY_METRICS, OTHER_METRICS } from "./report-keys";

interface Given {
  name: string;
  run: number;
  version: number;
  fingerprint: string;
  engine: string;
  createdAt: number;
  settings: Settings;
  strategy: Strategy;
  result: RunResult;
  /** trials in the ledger of the strategy's line */
  trials: number;
}

/** As many trades are listed; the result file has all. */
export const MOST_TRADES = 2000;

const escape = (text: unknown): string =>
  String(text).replace(/[&<>"']/g, (sign) => ({ "&": "&amp;", "<": "&lt;", ">": "&gt;", '"': "&quot;", "'": "&#39;" })[sign]!);

const STYLE = `
:root { color: #2a2520; background: #fffcf5; font: 10.5pt/1.4 Georgia, "Times New Roman", serif; }
body { max-width: 190mm; margin: 12mm auto; padding: 0 8mm; }
h1 { font-size: 20pt; margin: 0; } h2 { font-size: 13pt; margin: 7mm 0 2mm; border-bottom: 1px solid #cbbfa8; break-after: avoid; }
p { margin: 1mm 0; } .soft { color: #6b6055; } .mono, td.n, th.n { font-family: ui-monospace, "DejaVu Sans Mono", monospace; font-size: 9pt; }
table { border-collapse: collapse; width: 100%; } th { text-align: left; font-weight: normal; color: #6b6055; }
td, th { padding: 0.6mm 2mm 0.6mm 0; border-top: 1px solid #e6dccb; vertical-align: top; } thead th { border-top: 0; } .n { text-align: right; }
.two { columns: 2; column-gap: 10mm; } .two table { break-inside: avoid; } tr { break-inside: avoid; } svg { width: 100%; height: auto; }
@page { size: A4; margin: 14mm; } @media print { body { margin: 0; padding: 0; max-width: none; } }
`;

/**
 * A run as one page that needs nothing else: no network, no scripts; it prints on A4. All that a colleague needs to judge it:
 * figures, curve, calendar, rules in words, settings, fingerprint, trades.
 */
export function reportFile(given: Given): string {
  const { name, run, version, fingerprint, engine, createdAt, settings, strategy, result, trials } = given;
  const times = result.equity.time.map((text) => Date.parse(text));
  const currency = settings.currency ?? "";
  const title = `${name}, run ${run}`;
  const dates = `${dateText(times[0])} to ${dateText(times[times.length - 1])}`;
  const sections = [
    `<h1>${escape(title)}</h1>`,
    `<p class="soft">version ${version} · ${escape(settings.markets.map((market) => market.symbol).join(", "))} · ${dates} · ${decimal(settings.capital, 0)} ${escape(currency)} to begin with</p>`,
    `<p class="soft">computed ${momentText(createdAt)} UTC by engine version ${escape(engine)} · fingerprint <span class="mono">${escape(fingerprint)}</span></p>`,
    `<p>${decimal(trials, 0)} trials have been spent on this strategy's line: the more were tried, the better the best looks by chance alone.${result.halted ? " The account was halted in this run." : ""}</p>`,
    `<h2>Equity and drawdown</h2>`,
    curve(times, result.equity.equity, settings.capital, currency),
    `<h2>The figures that decide</h2>`,
    figures(KEY_METRICS, result.metrics, currency),
    calendar(result),
    falls(times, result.equity.equity, settings.capital),
    apart(result),
    `<h2>The rules in words</h2>`,
    ...strategyStatement(strategy).map(
      ({ heading, lines }) => `<p><b>${escape(heading)}.</b> ${lines.map(escape).join(lines.length > 1 ? "; " : "")}</p>`,
    ),
    `<h2>Run settings</h2>`,
    `<div class="two"><table>${[...settingsFacts(settings)].map(([what, says]) => row([what, says])).join("")}</table></div>`,
    `<h2>All figures</h2>`,
    figures(OTHER_METRICS, result.metrics, currency),
    trades(result),
  ];
  return `<!doctype html>
<html lang="en"><head><meta charset="utf-8"><meta name="viewport" content="width=device-width"><title>${escape(title)}</title><style>${STYLE}</style></head>
<body>
${sections.filter((one) => one !== "").join("\n")}
</body></html>
`;
}

const row = (cells: readonly unknown[], numbers = false): string =>
  `<tr>${cells.map((cell, i) => `<td${numbers && i > 0 ? ' class="n"' : ""}>${escape(cell)}</td>`).join("")}</tr>`;

function table(heads: readonly string[], rows: readonly (readonly unknown[])[]): string {
  const head = heads.map((one, i) => `<th${i > 0 ? ' class="n"' : ""}>${escape(one)}</th>`).join("");
  return `<table><thead><tr>${head}</tr></thead><tbody>${rows.map((cells) => row(cells, true)).join("")}</tbody></table>`;
}

function figures(keys: readonly string[], metrics: { all: Metrics; long: Metrics; short: Metrics }, currency: string): string {
  const rows = keys.map((key) => [
    metricLabel(key, currency || "money"),
    ...[metrics.all, metrics.long, metrics.short].map((part) => metricText(key, part[key] ?? null)),
  ]);
  const notes = keys.map((key) => `${METRICS[key].label}: ${METRICS[key].definition}`);
  return `${table(["figure", "all", "long", "short"], rows)}<details><summary class="soft">definitions</summary>${notes.map((note) => `<p class="soft">${escape(note)}</p>`).join("")}</details>`;
}

/** Equity above, drawdown in percent below, as one drawing. */
function curve(times: readonly number[], equity: readonly number[], capital: number, currency: string): string {
  const falls = [...percentFalls(equity, capital)];
  const [width, high, low, gap] = [720, 220, 80, 18];
  const [first, last] = [times[0], times[times.length - 1]];
  const x = (time: number) => (last === first ? 0 : ((time - first) / (last - first)) * width);
  const band = (values: readonly number[], top: number, height: number, extra: number) => {
    const points = thin(times, values);
    const least = points.reduce((min, point) => Math.min(min, point.y), extra);
    const most = points.reduce((max, point) => Math.max(max, point.y), extra);
    const y = (value: number) => top + (most === least ? height / 2 : ((most - value) / (most - least)) * height);
    return { least, most, y, line: points.map((point) => `${x(point.x).toFixed(1)},${y(point.y).toFixed(1)}`).join(" ") };
  };
  const above = band(equity, 0, high, capital);
  const below = band(falls, high + gap, low, 0);
  const years: string[] = [];
  const from = new Date(first).getUTCFullYear() + 1;
  const to = new Date(last).getUTCFullYear();
  const step = Math.max(1, Math.ceil((to - from + 1) / 10));
  for (let year = from; year <= to; year += step) {
    const at = x(Date.UTC(year, 0, 1)).toFixed(1);
    years.push(
      `<line x1="${at}" x2="${at}" y1="0" y2="${high + gap + low}" stroke="#e6dccb"/><text x="${at}" y="${high + gap + low + 14}" text-anchor="middle">${year}</text>`,
    );
  }
  const label = (value: string, y: number) => `<text x="${width + 6}" y="${(y + 4).toFixed(1)}">${escape(value)}</text>`;
  return `<svg viewBox="-4 -8 ${width + 90} ${high + gap + low + 26}" role="img" aria-label="Equity and drawdown" font-family="ui-monospace, monospace" font-size="10" fill="#6b6055">${years.join("")}
<line x1="0" x2="${width}" y1="${above.y(capital).toFixed(1)}" y2="${above.y(capital).toFixed(1)}" stroke="#cbbfa8" stroke-dasharray="3 3"/>
<polyline points="${above.line}" fill="none" stroke="#1f6f8b" stroke-width="1.6"/>
<polyline points="${below.line}" fill="none" stroke="#b0492c" stroke-width="1.2"/>
${label(`${decimal(above.most, 0)} ${currency}`, above.y(above.most))}${label(decimal(above.least, 0), above.y(above.least))}${label(`${decimal(below.least, 1)} %`, below.y(below.least))}</svg>`;
}

const MONTHS = ["Jan", "Feb", "Mar", "Apr", "May", "Jun", "Jul", "Aug", "Sep", "Oct", "Nov", "Dec"];

function calendar({ tables }: RunResult): string {
  const months = new Map(tables.months.map((month) => [month.period, month.percent]));
  const rows = tables.years.map((year) => [
    year.period,
    ...MONTHS.map((_, i) => {
      const value = months.get(`${year.period}-${String(i + 1).padStart(2, "0")}`);
      return value === undefined ? "" : signed(value, 1);
    }),
    signed(year.percent, 1),
  ]);
  return `<h2>Year by month, %</h2>${table(["", ...MONTHS, "year"], rows)}`;
}

function falls(times: readonly number[], equity: readonly number[], capital: number): string {
  const deepest = fallsOf(times, equity, capital)
    .sort((a, b) => b.percent - a.percent)
    .slice(0, 5);
  if (deepest.length === 0) return "";
  const rows = deepest.map((fall) => [
    dateText(fall.start),
    dateText(fall.low),
    fall.recovered === null ? "not yet" : dateText(fall.recovered),
    decimal(fall.days, 0),
    decimal(fall.money, 0),
    decimal(fall.percent, 1),
  ]);
  return `<h2>The deepest falls</h2>${table(["peak", "lowest", "recovered", "days", "money", "%"], rows)}`;
}

function apart(result: RunResult): string {
  const { good, bad } = standingApart(result.trades);
  const list = (ids: readonly number[]) => (ids.length === 0 ? "none" : ids.join(", "));
  return `<h2>Trades that stand apart</h2><p>Beyond the quartile plus three times the distance between the quartiles, winners and losers each for themselves. Winners: ${list(good)}. Losers: ${list(bad)}.</p>`;
}

function trades({ trades: all }: RunResult): string {
  const shown = all.slice(0, MOST_TRADES);
  const rows = shown.map((trade) => [
    trade.id,
    trade.symbol,
    trade.side,
    decimal(trade.units, 0),
    trade.entryTime.slice(0, 16).replace("T", " "),
    decimal(trade.entryPrice, 3),
    trade.exitTime?.slice(0, 16).replace("T", " ") ?? "open",
    decimal(trade.exitPrice, 3),
    trade.exitReason ?? "",
    signedMoney(trade.net),
    signed(trade.r, 2),
  ]);
  const note =
    all.length > shown.length
      ? `<p class="soft">The first ${decimal(shown.length, 0)} of ${decimal(all.length, 0)}; the result file has all.</p>`
      : "";
  return `<h2>Trades</h2>${note}${table(["", "market", "side", "units", "entry", "at", "exit", "at", "by", "net", "R"], rows)}`;
}
