import type { LuckAnswer, Weight } from "#core/reading";

const WEIGHTS: Record<Weight, { words: string; mark: string; className: string }> = {
  for: { words: "speaks for it", mark: "▲", className: "text-moss-ink" },
  little: { words: "says little", mark: "○", className: "text-ink-soft" },
  against: { words: "speaks against it", mark: "▼", className: "text-clay" },
};

/** What each figure says about luck. */
export function LuckAnswers({ answers }: { answers: readonly LuckAnswer[] }) {
  return (
    <ul>
      {answers.map((answer) => (
        <li
          key={answer.what}
          className="grid grid-cols-[210px_90px_1fr] items-baseline gap-x-4 border-t border-edge/60 py-2 first:border-t-0"
        >
          <div>
            <h3 className="font-semibold">{answer.what}</h3>
            <p className={`text-sm ${WEIGHTS[answer.weight].className}`} data-weight={answer.weight}>
              <span aria-hidden>{WEIGHTS[answer.weight].mark}</span> {WEIGHTS[answer.weight].words}
            </p>
          </div>
          <p className="figure-text text-right text-lg">{answer.value ?? "–"}</p>
          <p>{sentence(answer.says)}</p>
        </li>
      ))}
    </ul>
  );
}

/** A sentence as it stands alone. */
const sentence = (text: string): string => {
  const begun = text.charAt(0).toUpperCase() + text.slice(1);
  return /[.!?]$/.test(begun) ? begun : `${begun}.`;
};
