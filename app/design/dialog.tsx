import { Dialog as RadixDialog } from "radix-ui";
import { X } from "lucide-react";
import type { ReactNode } from "react";

/** A dialog over the page; Escape and the cross close it. */
export function Dialog({
  open,
  onOpenChange,
  title,
  about,
  children,
}: {
  open: boolean;
  onOpenChange: (open: boolean) => void;
  title: string;
  about?: string;
  children: ReactNode;
}) {
  return (
    <RadixDialog.Root open={open} onOpenChange={onOpenChange}>
      <RadixDialog.Portal>
        <RadixDialog.Overlay className="fixed inset-0 z-40 bg-ink/30" />
        <RadixDialog.Content
          {...(about ? {} : { "aria-describedby": undefined })}
          className="fixed top-[12vh] left-1/2 z-50 max-h-[76vh] w-[min(640px,92vw)] -translate-x-1/2 overflow-auto rounded-[6px] border border-edge bg-sheet p-5 text-ink shadow-2xl"
        >
          <div className="flex items-baseline justify-between gap-4">
            <RadixDialog.Title className="text-xl">{title}</RadixDialog.Title>
            <RadixDialog.Close aria-label="Close" className="rounded p-1 hover:bg-shade">
              <X size={16} aria-hidden />
            </RadixDialog.Close>
          </div>
          {about && <RadixDialog.Description className="mb-3 text-ink-soft">{about}</RadixDialog.Description>}
          {children}
        </RadixDialog.Content>
      </RadixDialog.Portal>
    </RadixDialog.Root>
  );
}
