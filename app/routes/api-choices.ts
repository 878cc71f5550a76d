import { data } from "react-router";
import { isRefused } from "#server/problem";
import type { Route } from "./+types/api-choices";

/** Remembers an ordered choice: `choice` names it, `keys` is a JSON list, or null to forget it. */
export async function action({ context, request }: Route.ActionArgs) {
  const form = await request.formData();
  try {
    await context.services.preferences.choose(String(form.get("choice")), JSON.parse(String(form.get("keys"))));
    return { problems: [] };
  } catch (error) {
    if (isRefused(error)) return data({ problems: error.problems }, { status: error.status });
    if (error instanceof SyntaxError) return data({ problems: [{ path: "keys", message: "the choice is no JSON" }] }, { status: 400 });
    throw error;
  }
}
