import { DAY, MINUTE } from "./timeframe";

/**
 * Offsets of an IANA zone, read from the platform's Intl data and cached by hour.
 * A zone that the platform does not know throws a RangeError (documents check the name first).
 */
export class Zone {
  private readonly format: Intl.DateTimeFormat | null;
  private readonly cache = new Map<number, number>();

  constructor(readonly name: string) {
    this.format =
      name === "UTC"
        ? null
        : new Intl.DateTimeFormat("en-US", {
            timeZone: name,
            hourCycle: "h23",
            year: "numeric",
            month: "2-digit",
            day: "2-digit",
            hour: "2-digit",
            minute: "2-digit",
            second: "2-digit",
          });
  }

  /** Local time minus UTC at an instant, in milliseconds. */
  offset(time: number): number {
    if (this.format === null) return 0;
    const slot = Math.floor(time / (15 * MINUTE));
    const known = this.cache.get(slot);
    if (known !== undefined) return known;
    const at = slot * 15 * MINUTE;
    const parts: Record<string, number> = {};
    for (const part of this.format.formatToParts(at)) if (part.type !== "literal") parts[part.type] = Number(part.value);
    const offset = Date.UTC(parts.year, parts.month - 1, parts.day, parts.hour, parts.minute, parts.second) - at;
    this.cache.set(slot, offset);
    return offset;
  }

  /**
   * The instant of a local day and minute. A local time that does not exist is taken with the offset before the
   * change; of one that exists twice, the first.
   */
  instant(day: number, minutes: number): number {
    const local = day * DAY + minutes * MINUTE;
    const before = this.offset(local - DAY);
    const first = local - before;
    if (this.offset(first) === before) return first;
    const after = this.offset(local + DAY);
    const second = local - after;
    return this.offset(second) === after ? second : first;
  }

  /** Local day number at an instant. */
  day(time: number): number {
    return Math.floor((time + this.offset(time)) / DAY);
  }
}

/** Whether the platform knows a zone of this name. */
export function isZone(name: string): boolean {
  try {
    new Zone(name);
    return true;
  } catch {
    return false;
  }
}
