import { Label, Select as RadixSelect } from "radix-ui";
import { Check, ChevronDown } from "lucide-react";
import { useEffect, useId, useState, type InputHTMLAttributes, type ReactNode } from "react";

const BOX = "w-full rounded-[4px] border border-edge bg-sheet px-2 py-1 text-base text-ink hover:border-ink-faint aria-invalid:border-clay";

/** A labelled input with its error right below. */
export function Field({
  label,
  error,
  hint,
  figure = false,
  className = "",
  ...given
}: InputHTMLAttributes<HTMLInputElement> & { label: ReactNode; error?: string; hint?: ReactNode; figure?: boolean }) {
  const own = useId();
  const input = useTyped(given);
  const id = input.id ?? own;
  return (
    <div className={`flex flex-col gap-0.5 ${className}`}>
      <Label.Root htmlFor={id} className="text-sm text-ink-soft">
        {label}
      </Label.Root>
      <input
        {...input}
        id={id}
        aria-invalid={error ? true : undefined}
        aria-describedby={error || hint ? `${id}-note` : undefined}
        className={`${BOX} ${figure ? "figure-text text-right" : ""}`}
      />
      {(error || hint) && (
        <span id={`${id}-note`} className={`text-xs ${error ? "text-clay" : "text-ink-soft"}`}>
          {error ?? hint}
        </span>
      )}
    </div>
  );
}

/**
 * Keeps what is being typed in view until the value that it leads to has come back: one that lives in the address is late,
 * and would take letters away from whoever types quickly.
 */
function useTyped(input: InputHTMLAttributes<HTMLInputElement>): InputHTMLAttributes<HTMLInputElement> {
  const [typed, setTyped] = useState<string | null>(null);
  const { value, onChange, onBlur } = input;
  useEffect(() => {
    if (typed !== null && typed === value) setTyped(null);
  }, [typed, value]);
  if (value === undefined) return input;
  return {
    ...input,
    value: typed ?? value,
    onChange: (event) => {
      setTyped(event.target.value);
      onChange?.(event);
    },
    onBlur: (event) => {
      setTyped(null);
      onBlur?.(event);
    },
  };
}

export interface Choice {
  value: string;
  label: string;
}

/** A pick-list. */
export function Select({
  label,
  value,
  choices,
  onChange,
  name,
  hideLabel = false,
  placeholder,
  className = "",
}: {
  label: string;
  value: string;
  choices: readonly Choice[];
  onChange?: (value: string) => void;
  name?: string;
  hideLabel?: boolean;
  placeholder?: string;
  className?: string;
}) {
  const id = useId();
  return (
    <div className={`flex flex-col gap-0.5 ${className}`}>
      <Label.Root htmlFor={id} className={hideLabel ? "sr-only" : "text-sm text-ink-soft"}>
        {label}
      </Label.Root>
      <RadixSelect.Root {...(onChange ? { value, onValueChange: onChange } : { defaultValue: value })} name={name}>
        <RadixSelect.Trigger id={id} aria-label={label} className={`${BOX} flex items-center justify-between gap-2 text-left`}>
          <RadixSelect.Value placeholder={placeholder} />
          <RadixSelect.Icon>
            <ChevronDown size={14} aria-hidden />
          </RadixSelect.Icon>
        </RadixSelect.Trigger>
        <RadixSelect.Portal>
          <RadixSelect.Content
            position="popper"
            sideOffset={3}
            className="z-50 max-h-80 min-w-[var(--radix-select-trigger-width)] overflow-hidden rounded-[4px] border border-edge bg-sheet text-ink shadow-lg"
          >
            <RadixSelect.Viewport className="p-1">
              {choices.map((choice) => (
                <RadixSelect.Item
                  key={choice.value}
                  value={choice.value}
                  className="flex cursor-pointer items-center gap-2 rounded-[3px] px-2 py-1 outline-none data-[highlighted]:bg-shade"
                >
                  <RadixSelect.ItemText>{choice.label}</RadixSelect.ItemText>
                  <RadixSelect.ItemIndicator className="ml-auto">
                    <Check size={14} aria-hidden />
                  </RadixSelect.ItemIndicator>
                </RadixSelect.Item>
              ))}
            </RadixSelect.Viewport>
          </RadixSelect.Content>
        </RadixSelect.Portal>
      </RadixSelect.Root>
    </div>
  );
}
