import { NameInput } from "./name-input";

/** Asks for another name of what the cursor is on; it changes everywhere. */
export function RenameBox({
  name,
  taken,
  onRename,
  onClose,
}: {
  name: string;
  taken: readonly string[];
  onRename: (to: string) => void;
  onClose: () => void;
}) {
  return (
    <div
      role="dialog"
      aria-label={`Rename ${name} everywhere`}
      className="fixed top-1/3 left-1/2 z-50 -translate-x-1/2 rounded-[6px] border border-edge bg-sheet p-4 shadow-xl"
      onKeyDown={(event) => event.key === "Escape" && onClose()}
    >
      <p className="mb-1.5">
        Rename <span className="figure-text">{name}</span> in every rule
      </p>
      <NameInput label="New name" name={name} taken={taken} onRename={onRename} className="w-56" />
      <p className="mt-1 text-sm text-ink-soft">Enter to rename, Escape to leave it.</p>
    </div>
  );
}
