import { useEffect, useMemo, useState } from "react";
import { useFetcher } from "react-router";
import { Select, type Choice } from "~/design/field";
import type { loader } from "~/routes/api-lists";

const KEPT = "canyon.list";

/**
 * A pick-list of markets that a list can narrow: to those that are watched, or to all but those that are left out. The
 * list is remembered for the next choice.
 */
export function MarketSelect({
  label,
  value,
  choices,
  onChange,
  name,
  placeholder,
  hideLabel = false,
  className = "",
}: {
  label: string;
  value: string;
  /** every market that could be chosen */
  choices: readonly Choice[];
  onChange?: (symbol: string) => void;
  name?: string;
  placeholder?: string;
  /** where the place says what is chosen; the list then stands below */
  hideLabel?: boolean;
  className?: string;
}) {
  const fetcher = useFetcher<typeof loader>({ key: "market-lists" });
  const [list, setList] = useState("");
  const { load, state, data } = fetcher;
  useEffect(() => {
    if (data === undefined && state === "idle") void load("/api/lists");
  }, [data, state, load]);
  useEffect(() => setList(localStorage.getItem(KEPT) ?? ""), []);
  const lists = data ?? [];
  const chosen = lists.find((one) => String(one.id) === list);
  const shown = useMemo(() => {
    if (chosen === undefined) return choices;
    const held = new Set(chosen.symbols);
    return choices.filter((choice) => choice.value === value || held.has(choice.value) === (chosen.kind === "watch"));
  }, [choices, chosen, value]);
  return (
    <div className={`relative ${className}`}>
      <Select label={label} hideLabel={hideLabel} name={name} value={value} choices={shown} onChange={onChange} placeholder={placeholder} />
      {lists.length > 0 && choices.length > 6 && (
        <select
          aria-label={`${label}: from which list`}
          value={chosen === undefined ? "" : list}
          onChange={(event) => {
            setList(event.target.value);
            localStorage.setItem(KEPT, event.target.value);
          }}
          className={`truncate bg-transparent text-xs text-ink-soft ${hideLabel ? "w-full" : "absolute top-0 right-0 max-w-[62%] text-right"}`}
        >
          <option value="">of all markets</option>
          {lists.map((one) => (
            <option key={one.id} value={String(one.id)}>
              {one.kind === "watch" ? "of" : "all but"} {one.name}
            </option>
          ))}
        </select>
      )}
    </div>
  );
}
