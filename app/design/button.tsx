import { Slot } from "radix-ui";
import type { ButtonHTMLAttributes } from "react";

export interface ButtonProps extends ButtonHTMLAttributes<HTMLButtonElement> {
  look?: "plain" | "primary" | "quiet";
  small?: boolean;
  asChild?: boolean;
}

const LOOKS = {
  plain: "border border-ink bg-sheet text-ink hover:bg-shade",
  primary: "border border-ink bg-ink text-on-ink hover:opacity-90",
  quiet: "border border-edge bg-sheet text-ink hover:border-ink-faint",
};

/** A button; one primary a page. `asChild` dresses a link as one. */
export function Button({ look = "plain", small = false, asChild = false, className = "", ...rest }: ButtonProps) {
  const Tag = asChild ? Slot.Root : "button";
  const size = small ? "px-2 py-0.5 text-sm" : "px-3 py-1.5 text-base";
  return (
    <Tag
      {...(asChild ? {} : { type: "button" as const })}
      className={`inline-flex items-center justify-center gap-1.5 rounded-[4px] font-medium whitespace-nowrap no-underline disabled:opacity-50 ${LOOKS[look]} ${size} ${className}`}
      {...rest}
    />
  );
}
