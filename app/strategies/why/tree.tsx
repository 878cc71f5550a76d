import { Check, X } from "lucide-react";
import type { Explained } from "#core/rules";
import { textInWords } from "#core/wording";
import { decimal } from "~/design/format";

/** A value as the trader reads it: as many digits as it deserves, a dash where it does not exist. */
export const valueText = (value: number, kind: "number" | "yesno"): string =>
  kind === "yesno"
    ? value === 1
      ? "yes"
      : "no"
    : Number.isNaN(value)
      ? "missing"
      : decimal(value, Math.abs(value) >= 1000 ? 1 : Math.abs(value) >= 1 ? 2 : 4);

/** A rule's parts with their values at a bar: yes and no by mark and word, what alone was missing in bold. */
export function WhyTree({ tree, settings, top = false }: { tree: Explained; settings: ReadonlySet<string>; top?: boolean }) {
  const yes = tree.value === 1;
  const words = textInWords(tree.text, settings);
  if (top && tree.joined === "all")
    return (
      <div>
        <p className="text-sm text-ink-soft">all of these:</p>
        <ul>
          {tree.parts.map((part, i) => (
            <li key={i} className="border-t border-edge/60 py-1 first:border-t-0">
              <WhyTree tree={part} settings={settings} />
            </li>
          ))}
        </ul>
      </div>
    );
  return (
    <div>
      <div className="grid grid-cols-[16px_1fr_auto] items-baseline gap-x-1.5">
        {tree.kind === "yesno" ? (
          yes ? (
            <Check size={13} className="self-center text-moss-ink" aria-hidden />
          ) : (
            <X size={13} className="self-center text-clay" aria-hidden />
          )
        ) : (
          <span />
        )}
        <span className={`${tree.kind === "number" ? "text-sm text-ink-soft" : ""} ${tree.onlyMissing ? "font-semibold" : ""}`}>
          {tree.joined === "any" ? "any of these" : tree.joined === "all" ? "all of these" : words}
          {tree.onlyMissing && <span className="text-clay"> — only this was missing</span>}
        </span>
        <span
          className={`figure-text text-right ${tree.kind === "yesno" ? "font-semibold" : "text-sm"}`}
          data-value={valueText(tree.value, tree.kind)}
        >
          {valueText(tree.value, tree.kind)}
        </span>
      </div>
      {tree.parts.length > 0 && (
        <ul className="pl-4">
          {tree.parts.map((part, i) => (
            <li key={i}>
              <WhyTree tree={part} settings={settings} />
            </li>
          ))}
        </ul>
      )}
    </div>
  );
}
