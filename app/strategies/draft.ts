import { useCallback, useEffect, useMemo, useReducer, useRef } from "react";
import type { Strategy } from "#core/documents";

interface History {
  past: Strategy[];
  now: Strategy;
  future: Strategy[];
  /** what the last change touched; further changes of the same thing are one step */
  touched: string | null;
  at: number;
}

type Step =
  | { kind: "change"; touched: string; change: (before: Strategy) => Strategy }
  | { kind: "undo" }
  | { kind: "redo" }
  | { kind: "reset"; to: Strategy };

const LIMIT = 200;
const TOGETHER = 1200;

function step(history: History, action: Step): History {
  const { past, now, future } = history;
  switch (action.kind) {
    case "change": {
      const next = action.change(now);
      if (JSON.stringify(next) === JSON.stringify(now)) return history;
      const time = Date.now();
      const same = history.touched === action.touched && time - history.at < TOGETHER && past.length > 0;
      return { past: same ? past : [...past, now].slice(-LIMIT), now: next, future: [], touched: action.touched, at: time };
    }
    case "undo":
      return past.length === 0
        ? history
        : { past: past.slice(0, -1), now: past[past.length - 1], future: [now, ...future], touched: null, at: 0 };
    case "redo":
      return future.length === 0 ? history : { past: [...past, now], now: future[0], future: future.slice(1), touched: null, at: 0 };
    case "reset":
      return { past: [], now: action.to, future: [], touched: null, at: 0 };
  }
}

export interface Draft {
  strategy: Strategy;
  changed: boolean;
  change: (touched: string, change: (before: Strategy) => Strategy) => void;
  undo: () => void;
  redo: () => void;
  reset: (to: Strategy) => void;
  canUndo: boolean;
  canRedo: boolean;
}

/** A strategy that is being changed: undo and redo, kept in this window until it is saved. */
export function useDraft(saved: Strategy, start: Strategy, key: string): Draft {
  const [history, dispatch] = useReducer(step, { past: start === saved ? [] : [saved], now: start, future: [], touched: null, at: 0 });
  const savedText = useMemo(() => JSON.stringify(saved), [saved]);
  const text = JSON.stringify(history.now);
  const changed = text !== savedText;
  const opened = useRef(false);
  useEffect(() => {
    // what an earlier visit left must be looked at before it may be cleared
    if (!opened.current) {
      opened.current = true;
      if (!changed) return;
    }
    if (changed) keepDraft(key, text);
    else forgetDraft(key);
  }, [changed, text, key]);
  return {
    strategy: history.now,
    changed,
    change: useCallback((touched, change) => dispatch({ kind: "change", touched, change }), []),
    undo: useCallback(() => dispatch({ kind: "undo" }), []),
    redo: useCallback(() => dispatch({ kind: "redo" }), []),
    reset: useCallback((to) => dispatch({ kind: "reset", to }), []),
    canUndo: history.past.length > 0,
    canRedo: history.future.length > 0,
  };
}

const nameOf = (key: string): string => `canyon.draft.${key}`;

/** Held by a window for as long as it lives, so that another one can tell an open draft from one that was left behind. */
const owned = new Set<string>();
function own(key: string): void {
  if (owned.has(key)) return;
  owned.add(key);
  void navigator.locks.request(nameOf(key), { ifAvailable: true }, (lock) => (lock === null ? undefined : new Promise<void>(() => {})));
}

/** Keeps a change in this window, and beside it for a window that comes after a crash. */
function keepDraft(key: string, text: string): void {
  own(key);
  sessionStorage.setItem(nameOf(key), text);
  localStorage.setItem(nameOf(key), text);
}

/** Forgets a change that was saved or taken back. */
export function forgetDraft(key: string): void {
  sessionStorage.removeItem(nameOf(key));
  localStorage.removeItem(nameOf(key));
}

/**
 * A change that was kept and never saved: this window's own, else one that a window left behind which is gone; null
 * without one. What another window is still writing stays there.
 */
export async function keptDraft(key: string): Promise<Strategy | null> {
  let text = sessionStorage.getItem(nameOf(key));
  if (text === null) {
    const { held = [] } = await navigator.locks.query();
    if (!held.some((lock) => lock.name === nameOf(key))) text = localStorage.getItem(nameOf(key));
  }
  return text === null ? null : (JSON.parse(text) as Strategy);
}
