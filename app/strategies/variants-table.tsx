import { useEffect, useState } from "react";
import type { Metrics, Settings, Strategy } from "#core/documents";
import { Button } from "~/design/button";
import { Panel } from "~/design/panel";
import type { LiveBacktest } from "~/runs/use-backtest";
import type { Draft } from "./draft";
import { FiguresTable } from "./figures-table";

interface Props {
  strategy: Strategy;
  live: LiveBacktest;
  settings: Settings | null;
  draft: Draft;
  onCount: (tries: readonly { strategy: Strategy; settings: Settings }[]) => void;
}

const withChosen = (strategy: Strategy, name: string, chosen: number): Strategy => ({
  ...strategy,
  definitions: strategy.definitions!.map((definition) => (definition.name === name ? { ...definition, chosen } : definition)),
});

/** All variants of a definition side by side, each run under the settings at hand; each counts as a trial. */
export function VariantsTable({ strategy, live, settings, draft, onCount }: Props) {
  const [open, setOpen] = useState(false);
  const [result, setResult] = useState<{ of: string | null; metrics: (Metrics | null)[] } | null>(null);
  const definition = strategy.definitions?.find((one) => (one.variants?.length ?? 0) > 1);
  const of = live.current ? live.of : null;
  const { ask } = live;
  const name = definition?.name;
  useEffect(() => {
    if (!open || of === null || name === undefined) return;
    let over = false;
    void ask({ what: "variants", symbol: "", definition: name }).then((answer) => {
      if (over || answer.what !== "variants" || settings === null) return;
      setResult({ of, metrics: answer.metrics });
      onCount(answer.metrics.map((_, k) => ({ strategy: withChosen(strategy, name, k + 1), settings })));
    });
    return () => {
      over = true;
    };
    // the run at hand says when it must be asked anew
    // eslint-disable-next-line react-hooks/exhaustive-deps
  }, [open, of, name]);
  if (definition === undefined) return null;
  const variants = definition.variants!;
  const chosen = definition.chosen ?? 1;
  if (!open)
    return (
      <p className="mb-3 text-sm text-ink-soft">
        <span className="figure-text">{definition.name}</span> has {variants.length} variants; now {variants[chosen - 1]?.label ?? chosen}.
        Alt with ↑ and ↓ tries the others.{" "}
        <Button look="quiet" small onClick={() => setOpen(true)}>
          Side by side
        </Button>
      </p>
    );
  return (
    <Panel
      className="mb-3"
      flush
      title={`Variants of ${definition.name}`}
      note={`${variants.length} trials; the best of many looks better than it is`}
      aside={
        <button type="button" className="quiet-link" onClick={() => setOpen(false)}>
          close
        </button>
      }
    >
      <FiguresTable
        label={`Variants of ${definition.name}, side by side`}
        first="variant"
        rows={variants.map((variant, k) => ({
          key: String(k),
          name: (
            <button
              type="button"
              className="text-left hover:underline"
              title={variant.rule}
              onClick={() => draft.change("variant", (before) => withChosen(before, definition.name, k + 1))}
            >
              {k + 1} {variant.label ?? variant.rule}
            </button>
          ),
          chosen: k + 1 === chosen,
          metrics: result === null ? undefined : (result.metrics[k] ?? null),
        }))}
      />
    </Panel>
  );
}
