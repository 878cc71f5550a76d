import { useCallback, useEffect, useRef } from "react";
import { useFetcher, useNavigate, useSearchParams } from "react-router";
import type { Settings, Strategy } from "#core/documents";
import { useNotice } from "~/design/toast";
import type { Under } from "~/run-settings/under";
import { forgetDraft } from "./draft";
import type { CountedTry } from "./counted-try";

export interface SaveAnswer {
  saved: { strategyId: number; number: number } | null;
  run: number | null;
  conflict: boolean;
  problems: { path: string; message: string }[];
}

interface Given {
  key: string;
  strategy: Strategy;
  settings: Settings | null;
  /** the settings at hand, which a version keeps, and saved ones that lie over them */
  hand: Settings | null;
  under: Under | null;
  version: { id: number; basedOn: number } | null;
  tries: () => CountedTry[];
}

/** Saves a draft as the next version, or a run of the version, and goes on to what was made. */
export function useSave({ key, strategy, settings, hand, under, version, tries }: Given) {
  const fetcher = useFetcher<SaveAnswer>();
  const navigate = useNavigate();
  const notice = useNotice();
  const [params] = useSearchParams();
  const { submit, state, data: answer } = fetcher;

  const send = useCallback(
    (intent: "save" | "run", more: { note?: string; evenSo?: boolean } = {}) =>
      void submit(
        {
          intent,
          document: JSON.stringify(strategy),
          settings: JSON.stringify(settings),
          hand: JSON.stringify(hand),
          under: String(under?.versionId ?? ""),
          basedOn: String(version?.basedOn ?? 0),
          version: String(version?.id ?? ""),
          evenSo: more.evenSo ? "yes" : "",
          note: more.note ?? "",
          tries: JSON.stringify(tries()),
        },
        { method: "post" },
      ),
    [submit, strategy, settings, hand, under, version?.basedOn, version?.id, tries],
  );

  const answered = useRef<SaveAnswer | null>(null);
  useEffect(() => {
    // going on while the page's data is still being loaded again would lose the new page
    if (!answer || state !== "idle" || answered.current === answer) return;
    answered.current = answer;
    if (answer.saved) {
      forgetDraft(key);
      notice({ text: `Saved as version ${answer.saved.number}.` });
      const next = new URLSearchParams(params);
      next.delete("set");
      for (const once of ["v", "start", "blank"]) next.delete(once);
      void navigate(`/strategies/${answer.saved.strategyId}?${next}`, { replace: version !== null });
    } else if (answer.run !== null) void navigate(`/runs/${answer.run}`);
    // an answer counts once
    // eslint-disable-next-line react-hooks/exhaustive-deps
  }, [answer, state]);
  return { send, busy: state !== "idle", answer };
}
