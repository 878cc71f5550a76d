import { useEffect, useState } from "react";
import { useFetcher, useNavigate } from "react-router";
import type { action } from "~/routes/optimization-new";
import { Button } from "~/design/button";
import { Field, Select } from "~/design/field";
import { Panel, Problems } from "~/design/panel";
import { useNotice } from "~/design/toast";

interface Props {
  plans: readonly { id: number; name: string }[];
  current: { id: number; name: string } | null;
  /** whether the set-up makes sense as it stands */
  able: boolean;
  versionId: number;
  document: () => Record<string, string>;
}

/** The set-up as a named plan: stored, taken up again on other dates, taken out. */
export function PlanPanel({ plans, current, able, versionId, document }: Props) {
  const fetcher = useFetcher<typeof action>();
  const { submit } = fetcher;
  const navigate = useNavigate();
  const show = useNotice();
  const [name, setName] = useState(current?.name ?? "");
  const saved = fetcher.data?.saved ?? null;
  useEffect(() => {
    if (saved === null) return;
    show({ text: "The plan is stored. Its dates can be changed each time it is run." });
    void navigate(`/optimizations/new?plan=${saved}`, { replace: true, preventScrollReset: true });
  }, [saved, navigate, show]);
  const remove = () => {
    if (current === null) return;
    const plan = String(current.id);
    void submit({ intent: "removePlan", plan }, { method: "post", action: "/optimizations/new" });
    show({
      text: `The plan “${current.name}” is taken out.`,
      action: {
        label: "Put it back",
        run: () => void submit({ intent: "restorePlan", plan }, { method: "post", action: "/optimizations/new" }),
      },
    });
    void navigate(`/optimizations/new?version=${versionId}`, { preventScrollReset: true });
  };
  return (
    <Panel title="Plan" note="this set-up under a name, to be run again on other dates">
      <Problems problems={fetcher.data?.problems ?? []} title="This plan can't be stored" />
      <div className="flex flex-wrap items-end gap-2">
        {plans.length > 0 && (
          <Select
            className="w-48"
            label="Stored plans"
            value={current === null ? "" : String(current.id)}
            placeholder="none in use"
            choices={plans.map((plan) => ({ value: String(plan.id), label: plan.name }))}
            onChange={(id) => void navigate(`/optimizations/new?plan=${id}`)}
          />
        )}
        <Field className="min-w-40 flex-1" label="Name of the plan" value={name} onChange={(event) => setName(event.target.value)} />
        <Button
          small
          className="mb-0.5"
          disabled={!able || name.trim() === "" || fetcher.state !== "idle"}
          onClick={() =>
            void submit(
              { intent: "savePlan", version: String(versionId), name, ...document() },
              { method: "post", action: "/optimizations/new" },
            )
          }
        >
          Store
        </Button>
        {current !== null && (
          <Button small look="quiet" className="mb-0.5" onClick={remove}>
            Take out
          </Button>
        )}
      </div>
    </Panel>
  );
}
