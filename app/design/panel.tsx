import type { ReactNode } from "react";

interface PanelProps {
  title?: ReactNode;
  note?: ReactNode;
  aside?: ReactNode;
  children: ReactNode;
  className?: string;
  /** without padding around the content, for tables that reach the edges */
  flush?: boolean;
}

/** A sheet of paper on the page: a heading with a note, and what it holds. */
export function Panel({ title, note, aside, children, className = "", flush = false }: PanelProps) {
  return (
    <section className={`rounded-[4px] border border-edge bg-sheet ${className}`}>
      {(title || aside) && (
        <header className="flex flex-wrap items-baseline gap-x-3 gap-y-1 px-3.5 pt-2.5 pb-1">
          {title && <h2 className="text-lg">{title}</h2>}
          {note && <span className="text-sm text-ink-soft">{note}</span>}
          {aside && <span className="ml-auto text-sm text-ink-soft">{aside}</span>}
        </header>
      )}
      <div className={flush ? "" : "px-3.5 pt-1.5 pb-3"}>{children}</div>
    </section>
  );
}

/** The head of a page: title, what it is about, actions. */
export function PageHead({ title, about, actions, mark }: { title: ReactNode; about?: ReactNode; actions?: ReactNode; mark?: ReactNode }) {
  return (
    <header className="flex items-start gap-3 pb-3.5">
      {mark}
      <div className="min-w-0">
        <h1 className="text-2xl leading-tight">{title}</h1>
        {about && <p className="text-base text-ink-soft">{about}</p>}
      </div>
      {actions && <div className="ml-auto flex flex-wrap items-center justify-end gap-2">{actions}</div>}
    </header>
  );
}

/** What a place is for and the next step, where there is nothing to show yet. */
export function Empty({ title, children, action }: { title: string; children: ReactNode; action?: ReactNode }) {
  return (
    <div className="rounded-[4px] border border-dashed border-edge bg-sheet px-8 py-10 text-center">
      <h2 className="text-xl">{title}</h2>
      <p className="mx-auto mt-1.5 mb-4 max-w-[56ch] text-ink-soft">{children}</p>
      {action}
    </div>
  );
}

/** What was wrong, where, and what to do: a list of problems in a form or a file. */
export function Problems({
  problems,
  title = "This can't be done yet",
}: {
  problems: readonly { path: string; message: string }[];
  title?: string;
}) {
  if (problems.length === 0) return null;
  return (
    <div role="alert" className="rounded-[4px] border border-clay bg-sheet px-3.5 py-2.5">
      <p className="font-semibold text-clay">{title}</p>
      <ul className="mt-1 list-disc pl-5">
        {problems.slice(0, 20).map((problem, i) => (
          <li key={i}>
            {problem.message}
            {problem.path && <span className="text-ink-soft"> ({problem.path})</span>}
          </li>
        ))}
      </ul>
      {problems.length > 20 && <p className="text-ink-soft">and {problems.length - 20} more</p>}
    </div>
  );
}
