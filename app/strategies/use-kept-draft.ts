import { useEffect } from "react";
import type { Strategy } from "#core/documents";
import { useNotice } from "~/design/toast";
import { keptDraft } from "./draft";

/** Brings back what an earlier visit left unsaved, and says so. */
export function useKeptDraft(key: string, saved: Strategy, start: Strategy, reset: (to: Strategy) => void): void {
  const notice = useNotice();
  useEffect(() => {
    let over = false;
    void keptDraft(key).then((kept) => {
      if (over || kept === null || JSON.stringify(kept) === JSON.stringify(start) || start !== saved) return;
      reset(kept);
      notice({ text: "An unsaved change was brought back.", action: { label: "Discard it", run: () => reset(saved) } });
    });
    return () => {
      over = true;
    };
    // once, when the page opens
    // eslint-disable-next-line react-hooks/exhaustive-deps
  }, [key]);
}
