import { useEffect, useState } from "react";
import { useMatches } from "react-router";
import { Dialog } from "~/design/dialog";

export interface KeyHint {
  keys: string;
  what: string;
}

const EVERYWHERE: KeyHint[] = [
  { keys: "Ctrl K", what: "find a place or an action" },
  { keys: "?", what: "this list" },
  { keys: "Tab", what: "to the next control" },
  { keys: "Escape", what: "close what lies over the page" },
];

/** Whether a key press belongs to something that is being typed in. */
export const isTyping = (event: KeyboardEvent): boolean => {
  const target = event.target as HTMLElement | null;
  if (target === null) return false;
  if (target instanceof HTMLInputElement) return !/^(checkbox|radio|button|submit|range|file)$/.test(target.type);
  return target.isContentEditable || /^(TEXTAREA|SELECT)$/.test(target.tagName);
};

/** Opens things by key: the palette and the list of keys. */
export function useShellKeys(onFind: () => void, onKeys: () => void): void {
  useEffect(() => {
    const listen = (event: KeyboardEvent) => {
      if ((event.ctrlKey || event.metaKey) && event.key.toLowerCase() === "k") {
        event.preventDefault();
        onFind();
      } else if (event.key === "?" && !isTyping(event)) onKeys();
    };
    document.addEventListener("keydown", listen);
    return () => document.removeEventListener("keydown", listen);
  }, [onFind, onKeys]);
}

/** The keys of the page at hand, as its route's handle names them, and those that work everywhere. */
export function KeysDialog({ open, onOpenChange }: { open: boolean; onOpenChange: (open: boolean) => void }) {
  const matches = useMatches();
  const page = matches.flatMap((match) => (match.handle as { keys?: KeyHint[] } | undefined)?.keys ?? []);
  const list = (hints: readonly KeyHint[]) => (
    <dl className="grid grid-cols-[130px_1fr] gap-y-1">
      {hints.map((hint) => (
        <div key={hint.keys} className="contents">
          <dt>
            <kbd className="figure-text rounded border border-edge bg-paper px-1.5">{hint.keys}</kbd>
          </dt>
          <dd>{hint.what}</dd>
        </div>
      ))}
    </dl>
  );
  return (
    <Dialog open={open} onOpenChange={onOpenChange} title="Keys of this page">
      {page.length > 0 && <div className="mt-2 mb-4">{list(page)}</div>}
      <h3 className="mb-1 text-ink-soft">Everywhere</h3>
      {list(EVERYWHERE)}
    </Dialog>
  );
}

/** The theme that is on, and a way to change it; remembered in this browser. */
export function useTheme(): [dusk: boolean, toggle: () => void] {
  const [dusk, setDusk] = useState(false);
  useEffect(() => setDusk(document.documentElement.dataset.theme === "dusk"), []);
  const toggle = () => {
    const next = document.documentElement.dataset.theme !== "dusk";
    document.documentElement.dataset.theme = next ? "dusk" : "limestone";
    localStorage.setItem("canyon.theme", next ? "dusk" : "limestone");
    setDusk(next);
  };
  return [dusk, toggle];
}
