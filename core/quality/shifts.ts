import { isIntraday, MINUTE, type SessionSpan } from "#core/bars";
import { keyOf, timeText, type Finding, type QualityCheck } from "./finding";

const HALF_HOUR = 30 * MINUTE;

/**
 * Days on which all bars sit early or late by whole half hours, several in a row: the clock of another time zone, or one
 * without daylight saving. Told by the first and the last bar of the local day against the session's.
 */
export const shifts: QualityCheck = {
  kind: "shift",
  title: "Shifted clocks",
  question: "Do whole days sit an hour early or late, as a wrong time zone makes them?",
  find: ({ bars, timeframe, calendar }) => {
    if (!isIntraday(timeframe) || calendar.session === null) return [];
    const days: { span: SessionSpan; first: number; last: number; shift: number }[] = [];
    let start = 0;
    const step = timeframe.count * MINUTE;
    for (let i = 1; i <= bars.length; i++) {
      if (i < bars.length && bars.time[i] - bars.time[i - 1] < 5 * 60 * MINUTE) continue;
      const middle = (bars.time[start] + bars.time[i - 1]) / 2;
      const span = calendar.sessionAt(middle);
      if (span !== null) {
        const early = bars.time[start] - span.open;
        const late = bars.time[i - 1] + step - span.close;
        // both ends moved by about the same: the day is whole but elsewhere
        const shift = Math.abs(early - late) < HALF_HOUR / 2 ? Math.round((early + late) / 2 / HALF_HOUR) * HALF_HOUR : 0;
        days.push({ span, first: start, last: i - 1, shift });
      }
      start = i;
    }
    const found: Finding[] = [];
    for (let k = 0; k < days.length;) {
      let end = k;
      while (end + 1 < days.length && days[end + 1].shift === days[k].shift) end++;
      const { shift } = days[k];
      if (shift !== 0 && end - k + 1 >= 3) {
        const [from, to] = [bars.time[days[k].first], bars.time[days[end].last]];
        const hours = Math.abs(shift) / (60 * MINUTE);
        found.push({
          kind: "shift",
          key: keyOf("shift", from, to),
          from,
          to,
          bars: days[end].last - days[k].first + 1,
          weight: (end - k + 1) * hours,
          text: `from ${timeText(from)} to ${timeText(to)}, ${end - k + 1} days sit ${hours} ${hours === 1 ? "hour" : "hours"} ${shift > 0 ? "late" : "early"}: the source's clock is probably another one`,
          times: [],
        });
      }
      k = end + 1;
    }
    return found;
  },
};
