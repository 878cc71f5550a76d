import type { CsvFormat } from "#core/bars";
import type { FilePreview } from "#server/importing/imports";
import { isRefused } from "#server/problem";
import type { Route } from "./+types/api-preview";

/** The beginning of a file that was handed in, under a format or under the guess of one. */
export async function loader({ context, request }: Route.LoaderArgs): Promise<FilePreview | null> {
  const query = new URL(request.url).searchParams;
  const format = query.get("format");
  try {
    return await context.services.imports.preview(Number(query.get("upload")), {
      format: format === null ? undefined : (JSON.parse(format) as CsvFormat),
      market: query.get("market") ?? undefined,
      source: query.get("source") ?? undefined,
    });
  } catch (error) {
    // the file was taken meanwhile: what the page shows of it stays
    if (isRefused(error)) return null;
    throw error;
  }
}
