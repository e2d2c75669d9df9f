import { useQueryClient } from "@tanstack/react-query";
import { useNavigate } from "@tanstack/react-router";
import { type FormEvent, useState } from "react";
import { sitesQuery } from "../api/ask";
import { api, type ProblemError, type Schemas, values } from "../api/client";
import { ChooseFile, send } from "../shared/ChooseFile";
import { Field, MainButton } from "../shared/parts";

/** The form that adds a site and continues with its first file. */
export function AddSite() {
  const queryClient = useQueryClient();
  const navigate = useNavigate();
  const [wrong, setWrong] = useState<ProblemError | null>(null);
  const [sent, setSent] = useState<number | null>(null);

  async function takeIn(file: File) {
    setWrong(null);
    setSent(0);
    try {
      const options = await send<Schemas["ArchiveRequest"]>("/api/site-archives", file, setSent);
      await queryClient.invalidateQueries({ queryKey: sitesQuery.queryKey });
      navigate({ to: "/$site/data", params: { site: options.site }, search: { job: options.job } });
    } catch (error) {
      setWrong(error as ProblemError);
    } finally {
      setSent(null);
    }
  }

  async function add(event: FormEvent<HTMLFormElement>) {
    event.preventDefault();
    const form = new FormData(event.currentTarget);
    const address = String(form.get("address")).trim();
    const name = String(form.get("name")).trim();
    const slug = name
      .toLowerCase()
      .replace(/[^a-z0-9]+/g, "-")
      .replace(/^-+|-+$/g, "")
      .slice(0, 50);
    try {
      const body = {
        name,
        address: /^https?:\/\//.test(address) ? address : `https://${address}`,
        slug: slug || "site",
      };
      const site = values(await api.POST("/api/sites", { body }));
      await queryClient.invalidateQueries({ queryKey: sitesQuery.queryKey });
      navigate({ to: "/$site/data", params: { site: site.slug } });
    } catch (error) {
      setWrong(error as ProblemError);
    }
  }

  return (
    <form onSubmit={add} className="space-y-3">
      <Field label="Name" name="name" required maxLength={200} />
      <Field label="Its address" name="address" required placeholder="https://www.shop.example" />
      {wrong && (
        <p role="alert" className="text-rust">
          {wrong.problem.detail} {wrong.problem.remedy || wrong.problem.problems[0]?.remedy}
        </p>
      )}
      <MainButton type="submit">Add the site</MainButton>
      <div className="flex items-center gap-4 border-rule border-t pt-3">
        <p className="flex-1 text-faint">Or import a site from an archive (People, Download site).</p>
        <ChooseFile label="Archive to import" accept=".zip" take={takeIn} sent={sent} />
      </div>
    </form>
  );
}

export function NoSite() {
  return (
    <main className="mx-auto max-w-sm p-8">
      <h1 className="mb-1 text-2xl">Add your first site</h1>
      <p className="mb-5 text-faint">Then load its search data and see where it loses clicks.</p>
      <AddSite />
    </main>
  );
}
