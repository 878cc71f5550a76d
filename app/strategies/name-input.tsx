import { useEffect, useState } from "react";
import { nameFault } from "#core/rules";

interface NameInputProps {
  label: string;
  name: string;
  taken: readonly string[];
  /** hears the new name once it is whole: when the field is left, or with Enter */
  onRename: (name: string) => void;
  className?: string;
}

/** A name that rules use: it changes everywhere at once, so only when it is typed to its end. */
export function NameInput({ label, name, taken, onRename, className = "" }: NameInputProps) {
  const [text, setText] = useState(name);
  useEffect(() => setText(name), [name]);
  const fault = text === name ? null : (nameFault(text) ?? (taken.includes(text) ? `the name “${text}” is taken` : null));
  const done = () => {
    if (text === name) return;
    if (fault === null) onRename(text);
    else setText(name);
  };
  return (
    <input
      aria-label={label}
      value={text}
      aria-invalid={fault !== null || undefined}
      title={fault ?? "changes in every rule that names it"}
      onChange={(event) => setText(event.target.value)}
      onBlur={done}
      onKeyDown={(event) => {
        if (event.key === "Enter") event.currentTarget.blur();
        if (event.key === "Escape") {
          setText(name);
          event.stopPropagation();
        }
      }}
      className={`figure-text rounded-[4px] border border-edge bg-sheet px-1.5 py-0.5 aria-invalid:border-clay ${className}`}
    />
  );
}
