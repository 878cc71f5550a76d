import { Tooltip } from "radix-ui";
import type { ReactNode } from "react";

/** A short explanation on hover and on focus. The child must take a ref. */
export function Tip({ text, children }: { text: ReactNode; children: ReactNode }) {
  return (
    <Tooltip.Root>
      <Tooltip.Trigger asChild>{children}</Tooltip.Trigger>
      <Tooltip.Portal>
        <Tooltip.Content
          sideOffset={5}
          collisionPadding={8}
          className="z-50 max-w-[340px] rounded-[4px] border border-edge bg-sheet px-2.5 py-1.5 text-sm text-ink shadow-lg"
        >
          {text}
        </Tooltip.Content>
      </Tooltip.Portal>
    </Tooltip.Root>
  );
}
