// The pages of a report as they would look, made again shortly after its template changed.
import { keepPreviousData, useQuery } from "@tanstack/react-query";
import { useEffect, useState } from "react";
import { api, ProblemError, type Schemas, values } from "../api/client";
import { many } from "../shared/format";
import type { Values } from "./words";

type Props = { site: Schemas["SiteShown"]; form: Values; id: number | undefined; logo: string };
const MOMENT = 700;

export function Preview({ site, form, id, logo }: Props) {
  const [options, setRequest] = useState(form);
  useEffect(() => {
    const later = setTimeout(() => setRequest(form), MOMENT);
    return () => clearTimeout(later);
  }, [form]);
  const found = useQuery({
    queryKey: ["report-preview", site.slug, id, options, logo.length, logo.slice(-40)],
    queryFn: async ({ signal }) => {
      const body = { ...options, name: options.name || "New", recipients: [], id: id ?? null, days: "" };
      const params = { path: { slug: site.slug } };
      return values(await api.POST("/api/sites/{slug}/reports/preview", { params, body, signal }));
    },
    enabled: (options.parts?.length ?? 0) > 0,
    placeholderData: keepPreviousData,
    retry: false,
    staleTime: 60_000,
  });
  const pages = found.data?.pages ?? [];
  const problem = found.error instanceof ProblemError ? found.error.problem : null;
  return (
    <section
      // biome-ignore lint/a11y/noNoninteractiveTabindex: it is scrolled by keys
      tabIndex={0}
      aria-label="Preview"
      className="h-full overflow-auto bg-shade px-4 py-3"
      data-testid="report-preview"
    >
      <p role="status" className="mb-2 text-faint">
        {problem
          ? `${problem.detail} ${problem.remedy}`
          : !options.parts?.length
            ? "Choose at least one part."
            : found.isFetching
              ? "Typesetting…"
              : `${many(pages.length, "page")}, with the data as they are now`}
      </p>
      {!problem &&
        pages.map((one, at) => (
          <img
            // biome-ignore lint/suspicious/noArrayIndexKey: pages have no other name
            key={at}
            src={one}
            alt={`Page ${at + 1} of the report “${found.data?.title}”`}
            className={`mb-3 w-full border border-rule ${found.isFetching ? "opacity-60" : ""}`}
          />
        ))}
    </section>
  );
}
