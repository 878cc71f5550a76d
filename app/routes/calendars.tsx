import { data, Form, Link, redirect, useSearchParams } from "react-router";
import { isRefused } from "#server/problem";
import { Button } from "~/design/button";
import { Field } from "~/design/field";
import { PageHead, Panel, Problems } from "~/design/panel";
import { readSession, SessionFields } from "~/markets/session-fields";
import type { Route } from "./+types/calendars";

export const meta: Route.MetaFunction = () => [{ title: "Calendars · Canyon" }];

export async function loader({ context }: Route.LoaderArgs) {
  return { calendars: await context.services.calendars.list() };
}

export async function action({ context, request }: Route.ActionArgs) {
  const form = await request.formData();
  const { calendars } = context.services;
  const id = Number(form.get("id"));
  try {
    if (form.get("intent") === "remove") {
      await calendars.remove(id);
      return redirect("/calendars");
    }
    const name = String(form.get("name") ?? "");
    if (id > 0) await calendars.update(id, name, readSession(form));
    const at = id > 0 ? id : await calendars.create(name, readSession(form));
    return redirect(`/calendars?id=${at}`);
  } catch (error) {
    if (isRefused(error)) return data({ problems: error.problems }, { status: error.status });
    throw error;
  }
}

export default function CalendarsPage({ loaderData: { calendars }, actionData }: Route.ComponentProps) {
  const [query] = useSearchParams();
  const wanted = query.get("id");
  const chosen = wanted === "new" ? null : (calendars.find((calendar) => String(calendar.id) === wanted) ?? calendars[0] ?? null);
  const problems = actionData?.problems ?? [];
  return (
    <>
      <PageHead
        title="Calendars"
        about="When markets trade: hours, holidays and early closes. A market follows one, or trades round the clock."
        actions={
          <Button asChild>
            <Link to="/calendars?id=new">New calendar</Link>
          </Button>
        }
      />
      <div className="grid grid-cols-[260px_1fr] items-start gap-3">
        <Panel title="All" flush>
          <ul>
            {calendars.map((calendar) => (
              <li key={calendar.id} className="border-t border-edge first:border-t-0">
                <Link
                  to={`/calendars?id=${calendar.id}`}
                  aria-current={calendar === chosen ? "page" : undefined}
                  className="block px-3.5 py-2 no-underline hover:bg-shade aria-[current=page]:bg-shade"
                >
                  <span className="font-semibold">{calendar.name}</span>
                  <span className="block text-sm text-ink-soft">
                    {calendar.session.open}–{calendar.session.close}, {calendar.session.zone}
                  </span>
                  <span className="block text-sm text-ink-soft">
                    {calendar.markets.length} {calendar.markets.length === 1 ? "market" : "markets"}
                  </span>
                </Link>
              </li>
            ))}
            {calendars.length === 0 && <li className="px-3.5 py-3 text-ink-soft">No calendar yet; make one on the right.</li>}
          </ul>
        </Panel>
        <Panel title={chosen === null ? "A new calendar" : chosen.name}>
          <Form method="post" key={chosen?.id ?? "new"} className="flex max-w-2xl flex-col gap-3">
            <input type="hidden" name="id" value={chosen?.id ?? 0} />
            <Problems problems={problems} title="Nothing was saved" />
            <Field
              label="Name"
              name="name"
              defaultValue={chosen?.name ?? ""}
              error={problems.find((problem) => problem.path === "name")?.message}
            />
            <SessionFields session={chosen?.session ?? null} problems={problems} />
            <div className="flex gap-2">
              <Button type="submit" look="primary">
                {chosen === null ? "Make it" : `Save for ${chosen.markets.length} ${chosen.markets.length === 1 ? "market" : "markets"}`}
              </Button>
              {chosen !== null && (
                <Button
                  type="submit"
                  name="intent"
                  value="remove"
                  disabled={chosen.markets.length > 0}
                  title={chosen.markets.length > 0 ? "markets still follow it" : undefined}
                >
                  Remove
                </Button>
              )}
            </div>
          </Form>
        </Panel>
      </div>
    </>
  );
}
