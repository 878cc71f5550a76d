import type { CsvFormat } from "#core/bars";
import type { Route } from "./+types/api-preview";

/** The beginning of a file that was handed in, under a format or under the guess of one. */
export async function loader({ context, request }: Route.LoaderArgs) {
  const query = new URL(request.url).searchParams;
  const format = query.get("format");
  return context.services.imports.preview(Number(query.get("upload")), {
    format: format === null ? undefined : (JSON.parse(format) as CsvFormat),
    market: query.get("market") ?? undefined,
    source: query.get("source") ?? undefined,
  });
}
