import { useEffect, useId, useState } from "react";

interface NumberInputProps {
  label: string;
  value: number | undefined;
  onChange: (value: number | undefined) => void;
  /** whether nothing may stand there */
  optional?: boolean;
  className?: string;
  hideLabel?: boolean;
}

/** A number that is being typed: what is no number yet is kept, marked, and not passed on. */
export function NumberInput({ label, value, onChange, optional = false, className = "", hideLabel = true }: NumberInputProps) {
  const id = useId();
  const [text, setText] = useState(value === undefined ? "" : String(value));
  const [wrong, setWrong] = useState(false);
  useEffect(() => {
    setText((before) =>
      before.trim() !== "" && Number(before.replace(",", ".")) === value ? before : value === undefined ? "" : String(value),
    );
    setWrong(false);
  }, [value]);
  return (
    <span className={`inline-flex flex-col ${className}`}>
      <label htmlFor={id} className={hideLabel ? "sr-only" : "text-sm text-ink-soft"}>
        {label}
      </label>
      <input
        id={id}
        value={text}
        inputMode="decimal"
        aria-invalid={wrong || undefined}
        title={wrong ? `“${text}” is not a number` : undefined}
        onChange={(event) => {
          const next = event.target.value;
          setText(next);
          if (next.trim() === "" && optional) {
            setWrong(false);
            onChange(undefined);
            return;
          }
          const parsed = next.trim() === "" ? NaN : Number(next.replace(",", "."));
          setWrong(!Number.isFinite(parsed));
          if (Number.isFinite(parsed)) onChange(parsed);
        }}
        className="figure-text w-full rounded-[4px] border border-edge bg-sheet px-1.5 py-0.5 text-right hover:border-ink-faint aria-invalid:border-clay"
      />
    </span>
  );
}

interface FigureInputProps {
  label: string;
  value: number | string;
  onChange: (value: number | string) => void;
  parameters: readonly string[];
  className?: string;
}

/** A number, or the name of a parameter that stands for one. */
export function FigureInput({ label, value, onChange, parameters, className = "" }: FigureInputProps) {
  const id = useId();
  const [text, setText] = useState(String(value));
  useEffect(
    () =>
      setText((before) =>
        before.trim() !== "" && (before === value || Number(before.replace(",", ".")) === value) ? before : String(value),
      ),
    [value],
  );
  const understood = (given: string): number | string | null => {
    const trimmed = given.trim();
    if (parameters.includes(trimmed)) return trimmed;
    const number = trimmed === "" ? NaN : Number(trimmed.replace(",", "."));
    return Number.isFinite(number) ? number : null;
  };
  const wrong = understood(text) === null;
  return (
    <>
      <input
        aria-label={label}
        list={id}
        value={text}
        aria-invalid={wrong || undefined}
        title={wrong ? `“${text}” is neither a number nor a parameter` : undefined}
        onChange={(event) => {
          setText(event.target.value);
          const next = understood(event.target.value);
          if (next !== null) onChange(next);
        }}
        className={`figure-text rounded-[4px] border border-edge bg-sheet px-1.5 py-0.5 text-right hover:border-ink-faint aria-invalid:border-clay ${className}`}
      />
      <datalist id={id}>
        {parameters.map((name) => (
          <option key={name} value={name} />
        ))}
      </datalist>
    </>
  );
}
