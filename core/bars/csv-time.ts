import type { CsvFormat } from "./csv-format";
import { mondayOf, parseDate } from "./dates";
import { DAY, isIntraday, MINUTE, type Timeframe } from "./timeframe";
import { Zone } from "./zone";

const CLOCK = /^(\d{1,2}):(\d{2})(?::(\d{2})(?:\.(\d{1,9}))?)?$/;
const COMPACT_CLOCK = /^(\d{2})(\d{2})(\d{2})?$/;
const OFFSET = /(Z|[+-]\d{2}:?\d{2})$/;

/** Milliseconds after midnight of a clock text; NaN where it is none. */
function clockOf(text: string): number {
  const match = CLOCK.exec(text) ?? COMPACT_CLOCK.exec(text);
  if (match === null) return NaN;
  const [hours, minutes, seconds] = [Number(match[1]), Number(match[2]), Number(match[3] ?? 0)];
  if (hours > 24 || minutes > 59 || seconds > 59) return NaN;
  return (hours * 60 + minutes) * MINUTE + seconds * 1000 + (match[4] ? Number(`0.${match[4]}`) * 1000 : 0);
}

/** Two digits at a place of a text; NaN where there are none. */
function twoDigits(text: string, at: number): number {
  const tens = text.charCodeAt(at) - 48;
  const ones = text.charCodeAt(at + 1) - 48;
  return tens >= 0 && tens <= 9 && ones >= 0 && ones <= 9 ? 10 * tens + ones : NaN;
}

/** Milliseconds of an offset text such as +02:00 or Z. */
function offsetOf(text: string): number {
  if (text === "Z") return 0;
  const digits = text.replace(":", "");
  const minutes = Number(digits.slice(1, 3)) * 60 + Number(digits.slice(3, 5));
  return (digits[0] === "-" ? -1 : 1) * minutes * MINUTE;
}

/** What a source means by a line's time: date and clock texts under its format, turned into the start of a bar. */
export class StampReader {
  private readonly zone: Zone;
  private lastDate = "";
  private lastDay = NaN;

  constructor(
    private readonly format: CsvFormat,
    /** null: times are taken as they stand */
    private readonly timeframe: Timeframe | null,
  ) {
    this.zone = new Zone(format.zone);
  }

  /** Start of the bar in epoch milliseconds; NaN where the texts are no time. */
  start(date: string, clock: string): number {
    const { time: kind } = this.format;
    if (kind === "seconds" || kind === "milliseconds") {
      const text = date === "" ? clock : date;
      if (!/^-?\d+(\.\d+)?$/.test(text)) return NaN;
      return this.barStart(kind === "seconds" ? Math.round(Number(text) * 1000) : Math.round(Number(text)));
    }
    const plain = kind === "iso" && (date === "" || clock === "") ? this.plainStart(date === "" ? clock : date) : NaN;
    if (!Number.isNaN(plain)) return plain;
    let dateText = date;
    let clockText = clock;
    if (date === "") dateText = clock;
    if (date === "" || clock === "") {
      const cut = dateText.search(/[T ]/);
      clockText = cut < 0 ? "" : dateText.slice(cut + 1).trim();
      if (cut >= 0) dateText = dateText.slice(0, cut);
    }
    const day = this.day(dateText);
    if (Number.isNaN(day)) return NaN;
    if (clockText === "")
      return this.barStart(this.timeframe !== null && isIntraday(this.timeframe) ? this.zone.instant(day, 0) : day * DAY, day);
    const zoned = OFFSET.exec(clockText);
    const within = clockOf(zoned === null ? clockText : clockText.slice(0, zoned.index));
    if (Number.isNaN(within)) return NaN;
    if (zoned !== null) return this.barStart(day * DAY + within - offsetOf(zoned[1]));
    const minutes = Math.floor(within / MINUTE);
    return this.barStart(this.zone.instant(day, minutes) + (within - minutes * MINUTE));
  }

  /** The most common way of writing a moment, `YYYY-MM-DD HH:MM:SS` with T, fractions and Z at will, read without a search; NaN for others. */
  private plainStart(text: string): number {
    const { length } = text;
    if (length < 16 || (text.charCodeAt(10) !== 84 && text.charCodeAt(10) !== 32) || text.charCodeAt(13) !== 58) return NaN;
    const utc = text.charCodeAt(length - 1) === 90;
    const end = utc ? length - 1 : length;
    const seconds = end === 16 ? 0 : end >= 19 && text.charCodeAt(16) === 58 ? twoDigits(text, 17) : NaN;
    let fraction = 0;
    if (end > 19) {
      if (end !== 23 || text.charCodeAt(19) !== 46) return NaN;
      fraction = 10 * twoDigits(text, 20) + text.charCodeAt(22) - 48;
      if (!(fraction >= 0 && fraction <= 999)) return NaN;
    }
    const [hours, minutes] = [twoDigits(text, 11), twoDigits(text, 14)];
    if (!(hours <= 23 && minutes <= 59 && seconds <= 59)) return NaN;
    const day = this.day(text.slice(0, 10));
    if (Number.isNaN(day)) return NaN;
    const rest = seconds * 1000 + fraction;
    const within = hours * 60 + minutes;
    return this.barStart((utc ? day * DAY + within * MINUTE : this.zone.instant(day, within)) + rest);
  }

  private day(text: string): number {
    if (text === this.lastDate) return this.lastDay;
    this.lastDate = text;
    return (this.lastDay = this.readDay(text));
  }

  private readDay(text: string): number {
    const { time: kind } = this.format;
    const iso = (year: string, month: string, day: string) => parseDate(`${year}-${month.padStart(2, "0")}-${day.padStart(2, "0")}`) ?? NaN;
    if (kind === "compact") return /^\d{8}$/.test(text) ? iso(text.slice(0, 4), text.slice(4, 6), text.slice(6, 8)) : NaN;
    if (kind === "iso") {
      const match = /^(\d{4})[-/.](\d{1,2})[-/.](\d{1,2})$/.exec(text);
      return match === null ? NaN : iso(match[1], match[2], match[3]);
    }
    const match = /^(\d{1,2})[./-](\d{1,2})[./-](\d{4})$/.exec(text);
    if (match === null) return NaN;
    return kind === "dayFirst" ? iso(match[3], match[2], match[1]) : iso(match[3], match[1], match[2]);
  }

  /** The start of the bar whose stamp is at an instant. Bars of a day and longer bear their date, at 00:00 UTC. */
  private barStart(at: number, day = NaN): number {
    if (this.timeframe === null) return at;
    const { stamp } = this.format;
    if (isIntraday(this.timeframe)) return stamp === "end" ? at - this.timeframe.count * MINUTE : at;
    let date = day;
    if (Number.isNaN(date)) {
      date = this.zone.day(at);
      // midnight ends the day before it
      if (stamp === "end" && at === this.zone.instant(date, 0)) date--;
    }
    if (stamp === "end" && this.timeframe.unit === "week") date = mondayOf(date);
    return date * DAY;
  }
}
