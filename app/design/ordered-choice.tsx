import { ArrowDown, ArrowUp } from "lucide-react";
import { useEffect, useState } from "react";
import { useFetcher } from "react-router";
import type { Choice } from "#server/preferences";
import { Button } from "./button";
import { Dialog } from "./dialog";

/**
 * An ordered choice of keys that is remembered for every page. Keys that do not exist (any more) are passed over; `first`
 * stands until somebody chooses.
 */
export function useChoice(choice: Choice, remembered: readonly string[] | null, all: readonly string[], first: readonly string[]) {
  const fetcher = useFetcher();
  const [own, setOwn] = useState<readonly string[] | null | undefined>(undefined);
  // what another page's choice has changed meanwhile comes with its loader
  useEffect(() => setOwn(undefined), [remembered]);
  const wanted = own === undefined ? remembered : own;
  const known = (wanted ?? first).filter((key) => all.includes(key));
  const chosen = known.length > 0 ? known : first;
  const choose = (keys: readonly string[] | null) => {
    setOwn(keys);
    void fetcher.submit({ choice, keys: JSON.stringify(keys) }, { method: "post", action: "/api/choices" });
  };
  return { chosen, choose };
}

interface Props {
  title: string;
  about: string;
  items: readonly { key: string; name: string }[];
  chosen: readonly string[];
  /** null: back to what it was at first */
  onChoose: (keys: readonly string[] | null) => void;
  label: string;
}

/** A button that opens a dialog in which things are chosen and put in order. */
export function OrderedChoice({ title, about, items, chosen, onChoose, label }: Props) {
  const [open, setOpen] = useState(false);
  const names = new Map(items.map(({ key, name }) => [key, name]));
  const rest = items.filter(({ key }) => !chosen.includes(key));
  const move = (at: number, by: -1 | 1) => {
    const next = [...chosen];
    [next[at], next[at + by]] = [next[at + by], next[at]];
    onChoose(next);
  };
  return (
    <>
      <button type="button" className="quiet-link" onClick={() => setOpen(true)}>
        {label}
      </button>
      <Dialog open={open} onOpenChange={setOpen} title={title} about={about}>
        <div className="grid grid-cols-2 gap-6">
          <section aria-label="Shown, in this order">
            <h3 className="mb-1 font-semibold">Shown, in this order</h3>
            <ol className="max-h-[46vh] overflow-auto">
              {chosen.map((key, at) => (
                <li key={key} className="flex items-center gap-1 border-t border-edge/60 py-0.5 first:border-t-0">
                  <label className="flex min-w-0 flex-1 items-center gap-2">
                    <input
                      type="checkbox"
                      checked
                      disabled={chosen.length === 1}
                      onChange={() => onChoose(chosen.filter((other) => other !== key))}
                    />
                    <span className="truncate">{names.get(key)}</span>
                  </label>
                  <button
                    type="button"
                    disabled={at === 0}
                    aria-label={`${names.get(key)}: up`}
                    onClick={() => move(at, -1)}
                    className="rounded p-0.5 hover:bg-shade disabled:opacity-30"
                  >
                    <ArrowUp size={14} aria-hidden />
                  </button>
                  <button
                    type="button"
                    disabled={at === chosen.length - 1}
                    aria-label={`${names.get(key)}: down`}
                    onClick={() => move(at, 1)}
                    className="rounded p-0.5 hover:bg-shade disabled:opacity-30"
                  >
                    <ArrowDown size={14} aria-hidden />
                  </button>
                </li>
              ))}
            </ol>
          </section>
          <section aria-label="Not shown">
            <h3 className="mb-1 font-semibold">Not shown</h3>
            <ul className="max-h-[46vh] overflow-auto">
              {rest.map(({ key, name }) => (
                <li key={key} className="border-t border-edge/60 py-0.5 first:border-t-0">
                  <label className="flex items-center gap-2">
                    <input type="checkbox" checked={false} onChange={() => onChoose([...chosen, key])} />
                    {name}
                  </label>
                </li>
              ))}
              {rest.length === 0 && <li className="text-ink-soft">Everything is shown.</li>}
            </ul>
          </section>
        </div>
        <div className="mt-4 flex justify-end gap-3">
          <Button onClick={() => onChoose(null)}>As it was at first</Button>
          <Button look="primary" onClick={() => setOpen(false)}>
            Done
          </Button>
        </div>
      </Dialog>
    </>
  );
}
