import { monthOf } from "#core/bars";
import { Random } from "#core/random";

/** Dates on which a storm blows: stretches of some weeks, about a fifth of all days. The same at every call. */
export function stormDates(dates: readonly number[]): ReadonlySet<number> {
  const random = new Random(907);
  const stormy = new Set<number>();
  let storm = false;
  for (const date of dates) {
    storm = storm ? random.uniform() > 1 / 45 : random.uniform() < 1 / 180;
    if (storm) stormy.add(date);
  }
  return stormy;
}

/** BARLEY's season: it rises in spring, while the old harvest runs out, and falls into the new one. */
export function barleySeason(date: number): number {
  const month = ((monthOf(date) % 12) + 12) % 12;
  if (month >= 2 && month <= 5) return 0.0013;
  return month >= 6 && month <= 8 ? -0.0016 : 0;
}
