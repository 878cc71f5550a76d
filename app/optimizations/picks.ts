import { useEffect, useRef } from "react";
import { isTyping } from "~/shell/keys";

/** Trials that can be set beside each other. */
export const MOST_PICKED = 8;

/** Numbers of trials in an address. */
export const numbersOf = (text: string | null): number[] => [
  ...new Set(
    (text ?? "")
      .split(",")
      .filter((one) => /^\d+$/.test(one))
      .map(Number),
  ),
];

/** Trials that an address has picked. */
export const picksOf = (params: URLSearchParams): ReadonlySet<number> => new Set(numbersOf(params.get("pick")).slice(0, MOST_PICKED));

/** The picks with one taken in or let go, as the address has them; the first one goes where there are too many. */
export function writePicks(picked: ReadonlySet<number>, number: number): string | null {
  const next = picked.has(number) ? [...picked].filter((one) => one !== number) : [...picked, number].slice(-MOST_PICKED);
  return next.length === 0 ? null : next.join(",");
}

/** C compares the picked trials, T tests them again more finely. */
export function useTrialKeys(on: boolean, onCompare: () => void, onFiner: () => void): void {
  const latest = useRef({ onCompare, onFiner });
  latest.current = { onCompare, onFiner };
  useEffect(() => {
    if (!on) return;
    const listen = (event: KeyboardEvent) => {
      if (isTyping(event) || event.ctrlKey || event.metaKey || event.altKey) return;
      if (event.key.toLowerCase() === "c") latest.current.onCompare();
      if (event.key.toLowerCase() === "t") latest.current.onFiner();
    };
    document.addEventListener("keydown", listen);
    return () => document.removeEventListener("keydown", listen);
  }, [on]);
}
