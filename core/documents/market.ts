import { isZone, marketSpec, parseClock, parseDate, type MarketSpec, type Session } from "#core/bars";
import * as yup from "yup";
import { checkShape, exact, formatKey, list, number, oneOf, text, whole, withoutNulls, type Read } from "./shape";

const clock = () => text().test("clock", "must be a time of day, HH:MM", (x) => x === undefined || x === null || parseClock(x) !== null);
const date = () => text().test("date", "must be a date, YYYY-MM-DD", (x) => x === undefined || x === null || parseDate(x) !== null);

export const sessionShape = () =>
  exact(
    {
      zone: text()
        .required()
        .test("zone", "must be an IANA time zone, such as Europe/Copenhagen", (x) => x === undefined || isZone(x)),
      open: clock().required(),
      close: clock().required(),
      days: list(whole().required().min(1, "must be 1 (Monday) to 7").max(7, "must be 1 (Monday) to 7"))
        .required()
        .min(1, "must name at least one weekday"),
      holidays: list(date().required()),
      earlyCloses: yup
        .mixed<Record<string, string>>()
        .test("earlyCloses", "must give a time HH:MM for each date YYYY-MM-DD", (x) =>
          x === undefined
            ? true
            : typeof x === "object" &&
              Object.entries(x).every(([d, t]) => parseDate(d) !== null && typeof t === "string" && parseClock(t) !== null),
        ),
    },
    "a session",
  ).default(undefined);

/** The keys that describe an instrument, shared by a market's own document and the markets of run settings. */
export const marketKeys = () => ({
  symbol: text()
    .required()
    .matches(/^[A-Za-z][A-Za-z0-9_.]*$/, "must start with a letter and hold letters, digits, _ and . only"),
  tick: number().moreThan(0, "must be above 0"),
  pointValue: number().moreThan(0, "must be above 0"),
  unitStep: number().moreThan(0, "must be above 0"),
  minUnits: number().moreThan(0, "must be above 0"),
  margin: exact(
    { mode: oneOf(["fraction", "perUnit"] as const).required(), value: number().required().min(0, "must not be negative") },
    "margin",
  ).default(undefined),
  session: sessionShape(),
});

export const marketSchema = exact({ format: formatKey("canyon.market/1"), ...marketKeys() }, "a market");

/** Reads `canyon.market/1`; gives the specification with its defaults. */
export function readMarket(given: unknown): Read<MarketSpec> {
  const problems = checkShape(marketSchema, given);
  if (problems.length > 0) return { value: null, problems };
  const { format: _format, ...rest } = withoutNulls(given) as Partial<MarketSpec> & { format: string; symbol: string; session?: Session };
  return { value: marketSpec(rest), problems: [] };
}
