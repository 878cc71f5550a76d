import { ChevronDown, ChevronUp, Plus, X } from "lucide-react";
import { useState } from "react";
import type { Definition, Strategy } from "#core/documents";
import { renameEverywhere, usesOf } from "#core/editing";
import { Button } from "~/design/button";
import type { Draft } from "./draft";
import { Messages } from "./messages";
import { NameInput } from "./name-input";
import { RuleField, useRuleForm } from "./rule-field";
import { Pick } from "./words/pick";
import { formatRule } from "#core/rules";

/** Named formulas of the strategy, with their variants. */
export function Definitions({ draft }: { draft: Draft }) {
  const { problems, names } = useRuleForm();
  const definitions = draft.strategy.definitions ?? [];
  const taken = [...names.parameters, ...definitions.map(({ name }) => name)];
  const set = (touched: string, next: Strategy["definitions"]) =>
    draft.change(touched, (before) => {
      const strategy = { ...before, definitions: next };
      if (next === undefined || next.length === 0) delete strategy.definitions;
      return strategy;
    });
  const change = (i: number, touched: string, next: Definition) =>
    set(
      `definition ${i} ${touched}`,
      definitions.map((d, k) => (k === i ? next : d)),
    );
  const fresh = (start: string) => {
    if (!taken.includes(start)) return start;
    for (let n = 2; ; n++) if (!taken.includes(`${start}${n}`)) return `${start}${n}`;
  };
  return (
    <section aria-label="Definitions" className="border-t border-edge pt-2">
      <h2 className="text-lg">Definitions</h2>
      {definitions.length === 0 && <p className="text-sm text-ink-soft">A definition gives a formula a name, so that rules stay short.</p>}
      {definitions.map((definition, i) => (
        <div key={i} data-definition={i} className="border-b border-edge/60 py-1">
          <div className="mb-0.5 flex items-center gap-2">
            <NameInput
              label={`Name of definition ${i + 1}`}
              name={definition.name}
              taken={taken}
              onRename={(name) => draft.change("rename", (before) => renameEverywhere(before, definition.name, name))}
              className="w-36"
            />
            <span className="text-sm text-ink-soft">
              {definition.variants ? `${definition.variants.length} variants` : `used ${usesOf(draft.strategy, definition.name)} times`}
            </span>
            {definition.variants === undefined && (
              <button
                type="button"
                className="quiet-link text-sm"
                onClick={() =>
                  change(i, "variants", {
                    name: definition.name,
                    variants: [
                      { label: "first", rule: definition.rule ?? "" },
                      { label: "second", rule: definition.rule ?? "" },
                    ],
                    chosen: 2,
                  })
                }
              >
                try variants
              </button>
            )}
            <button
              type="button"
              onClick={() =>
                set(
                  "definition remove",
                  definitions.filter((_, k) => k !== i),
                )
              }
              className="ml-auto p-1 text-ink-soft hover:text-ink"
              aria-label={`Remove ${definition.name}`}
            >
              <X size={13} aria-hidden />
            </button>
          </div>
          {definition.variants ? (
            <Variants definition={definition} index={i} onChange={(touched, next) => change(i, touched, next)} />
          ) : (
            <RuleField
              label={`Formula of ${definition.name}`}
              path={`definitions[${i}].rule`}
              kind={names.definitions[i]?.kind === "number" ? "value" : "rule"}
              value={definition.rule ?? ""}
              onChange={(rule) => change(i, "rule", { ...definition, rule })}
            />
          )}
          <Messages problems={problems} path={`definitions[${i}]`} />
        </div>
      ))}
      <div className="mt-1 flex gap-2">
        <Button look="quiet" small onClick={() => set("definition add", [...definitions, { name: fresh("part"), rule: "close > open" }])}>
          <Plus size={13} aria-hidden /> Definition
        </Button>
        <Pick
          label="Take over a ready-made definition"
          names={{ ...names, definitions: [], parameters: [] }}
          kind="yesno"
          current={null}
          onPick={(node) => {
            const rule = formatRule(node);
            const known = names.library.find((one) => one.rule === rule);
            set("definition add", [...definitions, { name: fresh(known?.name ?? "part"), rule }]);
          }}
          className="rounded-[4px] border-solid border-edge px-2 text-sm"
        >
          ready-made …
        </Pick>
      </div>
    </section>
  );
}

interface VariantsProps {
  definition: Definition;
  index: number;
  onChange: (touched: string, next: Definition) => void;
}

/** Alternatives for one definition: the chosen one counts, and Alt with an arrow key tries the next. */
function Variants({ definition, index, onChange }: VariantsProps) {
  const { problems } = useRuleForm();
  const variants = definition.variants!;
  const chosen = definition.chosen ?? 1;
  const [shown, setShown] = useState(false);
  const go = (by: number) => onChange("chosen", { ...definition, chosen: ((chosen - 1 + by + variants.length) % variants.length) + 1 });
  const set = (k: number, next: { label?: string; rule: string }) =>
    onChange(`variant ${k}`, { ...definition, variants: variants.map((one, i) => (i === k ? next : one)) });
  const wrong = (k: number) => problems.some((problem) => problem.path.startsWith(`definitions[${index}].variants[${k}]`));
  const open = (k: number) => k + 1 === chosen || shown || wrong(k);
  return (
    <div>
      <div className="flex items-center gap-1.5 py-0.5 text-sm">
        <button
          type="button"
          onClick={() => go(-1)}
          aria-label={`Try the variant before, of ${definition.name}`}
          title="Alt ↑"
          className="rounded border border-edge p-0.5 hover:border-ink-faint"
        >
          <ChevronUp size={13} aria-hidden />
        </button>
        <button
          type="button"
          onClick={() => go(1)}
          aria-label={`Try the next variant of ${definition.name}`}
          title="Alt ↓"
          className="rounded border border-edge p-0.5 hover:border-ink-faint"
        >
          <ChevronDown size={13} aria-hidden />
        </button>
        <span>
          {chosen} of {variants.length}
        </span>
        <button type="button" className="quiet-link ml-auto" onClick={() => setShown(!shown)}>
          {shown ? "only the chosen one" : "show all"}
        </button>
      </div>
      <ol aria-label={`Variants of ${definition.name}`}>
        {variants.map((variant, k) =>
          open(k) ? (
            <li key={k} className={`border-l-2 py-0.5 pl-2 ${k + 1 === chosen ? "border-ochre" : "border-edge"}`}>
              <div className="mb-0.5 flex items-center gap-2">
                <input
                  type="radio"
                  name={`variant of ${definition.name}`}
                  aria-label={`Choose variant ${k + 1}`}
                  checked={k + 1 === chosen}
                  onChange={() => onChange("chosen", { ...definition, chosen: k + 1 })}
                />
                <input
                  aria-label={`Label of variant ${k + 1}`}
                  value={variant.label ?? ""}
                  placeholder="label"
                  onChange={(event) => set(k, { ...variant, label: event.target.value })}
                  className="min-w-0 flex-1 rounded-[4px] border border-edge bg-sheet px-1.5 py-0.5 text-sm"
                />
                <button
                  type="button"
                  disabled={variants.length === 1}
                  onClick={() =>
                    onChange("variant remove", {
                      ...definition,
                      variants: variants.filter((_, i) => i !== k),
                      chosen: Math.min(chosen > k + 1 ? chosen - 1 : chosen, variants.length - 1),
                    })
                  }
                  aria-label={`Remove variant ${k + 1}`}
                  className="p-0.5 text-ink-soft hover:text-ink disabled:opacity-40"
                >
                  <X size={12} aria-hidden />
                </button>
              </div>
              <RuleField
                label={`Variant ${k + 1} of ${definition.name}`}
                path={`definitions[${index}].variants[${k}].rule`}
                value={variant.rule}
                onChange={(rule) => set(k, { ...variant, rule })}
              />
            </li>
          ) : null,
        )}
      </ol>
      <button
        type="button"
        className="quiet-link mt-0.5 text-sm"
        onClick={() =>
          onChange("variant add", {
            ...definition,
            variants: [...variants, { label: `variant ${variants.length + 1}`, rule: variants[chosen - 1].rule }],
            chosen: variants.length + 1,
          })
        }
      >
        + variant, from the chosen one
      </button>
    </div>
  );
}
