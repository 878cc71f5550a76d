import { isIntraday, MINUTE } from "#core/bars";
import { keyOf, timeText, type Finding, type QualityCheck, type QualityContext } from "./finding";

/** Session dates without a bar, joined where they follow each other. */
function missingDates({ bars, dates, calendar }: QualityContext): Finding[] {
  const found: Finding[] = [];
  for (let i = 1; i < bars.length; i++) {
    let missing = 0;
    let first = 0;
    let last = 0;
    for (let day = dates[i - 1] + 1; day < dates[i]; day++)
      if (calendar.isSessionDate(day)) {
        if (missing++ === 0) first = day;
        last = day;
      }
    if (missing === 0) continue;
    const [from, to] = [first * 86_400_000, last * 86_400_000];
    found.push({
      kind: "gap",
      key: keyOf("gap", from, to),
      from,
      to,
      bars: missing,
      weight: missing,
      text: `${missing} ${missing === 1 ? "session is" : "sessions are"} missing${missing === 1 ? ` on ${timeText(from)}` : ` from ${timeText(from)} to ${timeText(to)}`}`,
      times: [],
    });
  }
  return found;
}

/** Missing bars within sessions; single ones are listed only where few are missing at all, since thin markets skip minutes. */
function missingBars({ bars, timeframe, calendar }: QualityContext): Finding[] {
  const step = timeframe.count * MINUTE;
  const holes: { from: number; to: number; bars: number }[] = [];
  for (let i = 1; i < bars.length; i++) {
    if (bars.time[i] - bars.time[i - 1] <= step) continue;
    const before = calendar.sessionAt(bars.time[i - 1]);
    const after = calendar.sessionAt(bars.time[i]);
    if (before === null || after === null) continue;
    if (before.date === after.date) {
      holes.push({
        from: bars.time[i - 1] + step,
        to: bars.time[i] - step,
        bars: Math.round((bars.time[i] - bars.time[i - 1]) / step) - 1,
      });
      continue;
    }
    const tail = Math.max(0, Math.round((before.close - bars.time[i - 1]) / step) - 1);
    const head = Math.max(0, Math.round((bars.time[i] - after.open) / step));
    let whole = 0;
    for (let day = before.date + 1; day < after.date; day++) {
      const span = calendar.span(day);
      if (span !== null) whole += Math.round((span.close - span.open) / step);
    }
    if (tail + head + whole > 0) holes.push({ from: bars.time[i - 1] + step, to: bars.time[i] - step, bars: tail + head + whole });
  }
  const singles = holes.filter((hole) => hole.bars < 5).length;
  const least = singles > 200 ? 5 : 1;
  return holes
    .filter((hole) => hole.bars >= least)
    .map(({ from, to, bars: missing }) => ({
      kind: "gap",
      key: keyOf("gap", from, to),
      from,
      to,
      bars: missing,
      weight: missing,
      text: `${missing} ${missing === 1 ? "bar is" : "bars are"} missing from ${timeText(from)} to ${timeText(to)}`,
      times: [],
    }));
}

export const gaps: QualityCheck = {
  kind: "gap",
  title: "Gaps",
  question: "Are there sessions, or stretches within a session, without a bar?",
  find: (context) => {
    if (context.timeframe.unit === "day") return missingDates(context);
    return isIntraday(context.timeframe) ? missingBars(context) : [];
  },
};
