import { Link, useFetcher } from "react-router";
import { PROBES } from "#core/probes";
import { Button } from "~/design/button";
import { Empty, PageHead, Panel } from "~/design/panel";
import { useNotice } from "~/design/toast";
import { askedWords } from "~/probes/form-state";
import type { Route } from "./+types/cascades";

export const meta: Route.MetaFunction = () => [{ title: "Cascades · Canyon" }];

export async function loader({ context }: Route.LoaderArgs) {
  return { cascades: await context.services.cascades.list() };
}

export async function action({ context, request }: Route.ActionArgs) {
  const form = await request.formData();
  const { cascades } = context.services;
  const id = Number(form.get("id"));
  if (form.get("intent") === "restore") await cascades.restore(id);
  else await cascades.remove(id);
  return null;
}

export default function CascadesPage({ loaderData: { cascades } }: Route.ComponentProps) {
  const fetcher = useFetcher();
  const notice = useNotice();
  const remove = (id: number, name: string) => {
    void fetcher.submit({ intent: "remove", id: String(id) }, { method: "post" });
    notice({
      text: `“${name}” was taken out.`,
      action: { label: "Bring it back", run: () => void fetcher.submit({ intent: "restore", id: String(id) }, { method: "post" }) },
    });
  };
  return (
    <>
      <PageHead
        title="Cascades"
        about="ordered sets of probes, the cheap ones first; what fails one never reaches the next"
        actions={
          <Button asChild look="primary">
            <Link to="/cascades/new">Make a cascade</Link>
          </Button>
        }
      />
      {cascades.length === 0 ? (
        <Empty
          title="No cascade yet"
          action={
            <Link to="/cascades/new" className="quiet-link">
              Make a cascade
            </Link>
          }
        >
          A cascade asks the same of many versions, with criteria that were set before any of them was looked at.
        </Empty>
      ) : (
        <div className="flex flex-col gap-3">
          {cascades.map(({ id, document, runs }) => (
            <Panel
              key={id}
              title={
                <Link to={`/cascades/${id}`} className="no-underline hover:underline">
                  {document.name}
                </Link>
              }
              note={document.about}
              aside={
                <>
                  {runs} {runs === 1 ? "run" : "runs"} ·{" "}
                  <button
                    type="button"
                    className="quiet-link"
                    aria-label={`Take out ${document.name}`}
                    onClick={() => remove(id, document.name)}
                  >
                    take out
                  </button>
                </>
              }
            >
              <ol className="flex flex-wrap gap-x-2 gap-y-1.5">
                {document.stages.map((stage, k) => (
                  <li
                    key={k}
                    className="rounded-[4px] border border-edge px-2 py-1"
                    title={askedWords(PROBES.get(stage.probe)!, stage.input.criteria)}
                  >
                    <span className="figure-text text-sm text-ink-soft">{k + 1}</span> {PROBES.get(stage.probe)!.name}
                  </li>
                ))}
              </ol>
            </Panel>
          ))}
        </div>
      )}
    </>
  );
}
