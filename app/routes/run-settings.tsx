import { useEffect, useRef } from "react";
import { data, Link, useFetcher } from "react-router";
import { READY_MADE_SETTINGS, settingFacts, type SavedSettings } from "#core/settings";
import { isRefused } from "#server/problem";
import { Button } from "~/design/button";
import { dateText } from "~/design/format";
import { Empty, PageHead, Panel, Problems } from "~/design/panel";
import { useNotice } from "~/design/toast";
import type { Route } from "./+types/run-settings";

export const meta: Route.MetaFunction = () => [{ title: "Run settings · Canyon" }];

export async function loader({ context }: Route.LoaderArgs) {
  return { own: await context.services.runSettings.list() };
}

interface Answer {
  removed: { id: number; name: string } | null;
  problems: { path: string; message: string }[];
}

export async function action({ context, request }: Route.ActionArgs) {
  const form = await request.formData();
  const { runSettings } = context.services;
  const id = Number(form.get("id"));
  try {
    if (form.get("intent") === "remove") {
      await runSettings.remove(id);
      return { removed: { id, name: String(form.get("name")) }, problems: [] } satisfies Answer;
    }
    await runSettings.putBack(id);
    return { removed: null, problems: [] } satisfies Answer;
  } catch (error) {
    if (isRefused(error)) return data({ removed: null, problems: error.problems } satisfies Answer, { status: error.status });
    throw error;
  }
}

/** Run settings under names: those of one's own, and those that ship with Canyon. */
export default function RunSettingsPage({ loaderData: { own } }: Route.ComponentProps) {
  const fetcher = useFetcher<Answer>();
  const notice = useNotice();
  const answered = useRef<Answer | null>(null);
  const { data: answer, submit } = fetcher;
  useEffect(() => {
    if (!answer?.removed || answered.current === answer) return;
    answered.current = answer;
    const { id, name } = answer.removed;
    notice({
      text: `${name} was taken out. Runs that name it keep it.`,
      action: { label: "Undo", run: () => void submit({ intent: "putBack", id: String(id) }, { method: "post" }) },
    });
  }, [answer, notice, submit]);
  return (
    <>
      <PageHead
        title="Run settings"
        about="Markets, dates, account, costs and fills under a name. They say only what they fix; the rest is as at hand where a strategy is looked at."
        actions={
          <Button look="primary" asChild>
            <Link to="/run-settings/new">New run settings</Link>
          </Button>
        }
      />
      {answer && answer.problems.length > 0 && (
        <div className="mb-3">
          <Problems problems={answer.problems} />
        </div>
      )}
      <div className="flex flex-col gap-3">
        {own.length === 0 ? (
          <Empty
            title="None of your own yet"
            action={
              <Button asChild>
                <Link to="/run-settings/new">New run settings</Link>
              </Button>
            }
          >
            Save what you ask of every strategy once, such as twice the costs from 2010 on, and lay it over any strategy by its name. Each
            change is a version, and a run says which one it was computed under.
          </Empty>
        ) : (
          <Panel title="Your own" note={String(own.length)}>
            <ul>
              {own.map((one) => (
                <Row
                  key={one.id}
                  title={
                    <Link to={`/run-settings/${one.id}`} className="quiet-link">
                      {one.name}
                    </Link>
                  }
                  under={`version ${one.number}, ${dateText(one.createdAt)}`}
                  saved={one.saved}
                  about={one.note}
                >
                  <Button look="quiet" small asChild>
                    <Link to={`/run-settings/${one.id}`}>Change</Link>
                  </Button>
                  <Button look="quiet" small asChild>
                    <Link to={`/run-settings/new?copy=${one.id}`}>Copy</Link>
                  </Button>
                  <Button
                    look="quiet"
                    small
                    aria-label={`Take out ${one.name}`}
                    onClick={() => void submit({ intent: "remove", id: String(one.id), name: one.name }, { method: "post" })}
                  >
                    Take out
                  </Button>
                </Row>
              ))}
            </ul>
          </Panel>
        )}
        <Panel title="Ready-made" note="what a sceptic asks for first">
          <ul>
            {READY_MADE_SETTINGS.map((one) => (
              <Row key={one.key} title={one.name} saved={one.saved} about={one.about}>
                <Button look="quiet" small asChild>
                  <Link to={`/run-settings/new?ready=${one.key}`}>Copy</Link>
                </Button>
              </Row>
            ))}
          </ul>
        </Panel>
      </div>
    </>
  );
}

interface RowProps {
  title: React.ReactNode;
  under?: string;
  saved: SavedSettings;
  about: string;
  children: React.ReactNode;
}

const Row = ({ title, under, saved, about, children }: RowProps) => (
  <li className="grid grid-cols-[230px_1fr_auto] gap-x-4 border-t border-edge/60 py-1.5 first:border-t-0">
    <div>
      <p className="font-semibold">{title}</p>
      {under && <p className="text-xs text-ink-soft">{under}</p>}
    </div>
    <div className="min-w-0">
      <p className="text-sm">
        {settingFacts(saved).map(({ what, says }, i) => (
          <span key={what}>
            {i > 0 && "; "}
            {what}: <span className="font-medium">{says}</span>
          </span>
        ))}
      </p>
      <p className="text-sm text-ink-soft">{about}</p>
    </div>
    <div className="flex items-start gap-1.5">{children}</div>
  </li>
);
