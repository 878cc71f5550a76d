import { useCallback, useEffect, useRef, useState } from "react";

const MOST = 100;

/** A value with its past: `set` notes what was before (once for changes of one kind in a row), Ctrl Z and `undo` bring it back. */
export function useHistory<T>(start: T): { state: T; set: (next: T, kind?: string) => void; undo: (() => void) | null } {
  const [state, setState] = useState(start);
  const past = useRef<T[]>([]);
  const last = useRef<string | undefined>(undefined);
  const now = useRef(start);
  const set = useCallback((next: T, kind?: string) => {
    if (kind === undefined || kind !== last.current) past.current = [...past.current.slice(-MOST), now.current];
    last.current = kind;
    now.current = next;
    setState(next);
  }, []);
  const undo = useCallback(() => {
    const before = past.current.pop();
    if (before === undefined) return;
    last.current = undefined;
    now.current = before;
    setState(before);
  }, []);
  useEffect(() => {
    const listen = (event: KeyboardEvent) => {
      const typing = event.target instanceof HTMLElement && event.target.closest("input, textarea, [contenteditable]") !== null;
      if (typing || !(event.ctrlKey || event.metaKey) || event.key.toLowerCase() !== "z") return;
      event.preventDefault();
      undo();
    };
    window.addEventListener("keydown", listen);
    return () => window.removeEventListener("keydown", listen);
  }, [undo]);
  return { state, set, undo: past.current.length > 0 ? undo : null };
}
