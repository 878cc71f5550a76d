import { METRICS, type MetricUnit } from "#core/metrics";

const minus = (text: string): string => text.replace("-", "−");
const grouped = (digits: number): Intl.NumberFormat =>
  new Intl.NumberFormat("en-GB", { minimumFractionDigits: digits, maximumFractionDigits: digits });
const cache = new Map<number, Intl.NumberFormat>();

/** A number with thousands separated, a fixed number of decimals and a true minus; a dash where there is none. */
export function decimal(x: number | null | undefined, digits: number): string {
  if (x === null || x === undefined || !Number.isFinite(x)) return "–";
  let format = cache.get(digits);
  if (format === undefined) cache.set(digits, (format = grouped(digits)));
  const text = format.format(x);
  return minus(/^-[0.,]*$/.test(text) ? text.slice(1) : text);
}

/** The same with a plus in front of what is above 0. */
export const signed = (x: number | null | undefined, digits: number): string =>
  x !== null && x !== undefined && x > 0 && !/^[0.,]*$/.test(decimal(x, digits)) ? `+${decimal(x, digits)}` : decimal(x, digits);

/** Money: whole above a thousand, two decimals below. */
export const money = (x: number | null | undefined): string => decimal(x, x !== null && x !== undefined && Math.abs(x) >= 1000 ? 0 : 2);
export const signedMoney = (x: number | null | undefined): string =>
  signed(x, x !== null && x !== undefined && Math.abs(x) >= 1000 ? 0 : 2);

/** Decimals that a tick asks for. */
export function tickDigits(tick: number): number {
  for (let digits = 0; digits < 8; digits++) if (Math.abs(tick * 10 ** digits - Math.round(tick * 10 ** digits)) < 1e-9) return digits;
  return 8;
}

/** A price as its tick says; one digit more where the price lies between ticks. */
export function price(x: number | null | undefined, tick: number): string {
  const digits = tickDigits(tick);
  if (x === null || x === undefined) return "–";
  const off = Math.abs(x / tick - Math.round(x / tick)) > 1e-6;
  return decimal(x, off ? Math.min(8, digits + 2) : digits);
}

const DIGITS: Record<MetricUnit, number> = { money: 0, percent: 1, fraction: 1, ratio: 2, count: 0, bars: 1, days: 0, r: 2 };
const SIGNED = new Set(["netProfit", "netPercent", "averageTrade", "medianTrade", "expectancyR"]);

/** A metric's value as a report shows it; fractions as percent. */
export function metricText(key: string, value: number | null | undefined): string {
  const { unit } = METRICS[key];
  if (value === null || value === undefined) return "–";
  if (unit === "money") return SIGNED.has(key) ? signedMoney(value) : money(value);
  const shown = unit === "fraction" ? value * 100 : value;
  return SIGNED.has(key) ? signed(shown, DIGITS[unit]) : decimal(shown, DIGITS[unit]);
}

/** A metric's label with its unit, for column heads. */
export function metricLabel(key: string, currency = "SKR"): string {
  const { label, unit } = METRICS[key];
  const suffix = { money: `, ${currency}`, percent: ", %", fraction: ", %", ratio: "", count: "", bars: "", days: ", days", r: ", R" }[
    unit
  ];
  return `${label}${suffix}`;
}

/** `YYYY-MM-DD` of epoch milliseconds. */
export const dateText = (time: number): string => new Date(time).toISOString().slice(0, 10);

/** Date and time of day of a moment, in UTC. */
export const momentText = (time: number): string => new Date(time).toISOString().slice(0, 16).replace("T", " ");

/** Seconds as m:ss, or h:mm:ss. */
export function duration(seconds: number | null): string {
  if (seconds === null || !Number.isFinite(seconds)) return "–";
  const s = Math.max(0, Math.round(seconds));
  const two = (x: number) => String(x).padStart(2, "0");
  return s >= 3600 ? `${Math.floor(s / 3600)}:${two(Math.floor(s / 60) % 60)}:${two(s % 60)}` : `${Math.floor(s / 60)}:${two(s % 60)}`;
}
