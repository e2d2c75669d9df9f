// The saved views in the menu, and a form to save the current one.
import { X } from "lucide-react";
import { type FormEvent, useState } from "react";
import { Dialog } from "../shared/Dialog";
import { Button, Field, MainButton } from "../shared/parts";
import { useViews } from "./useViews";

export function SavedViews({ slug, mayChange }: { slug: string; mayChange: boolean }) {
  const { views, open, save, remove } = useViews(slug);
  const [naming, setNaming] = useState(false);
  if (!mayChange && views.length === 0) return null;

  async function keep(event: FormEvent<HTMLFormElement>) {
    event.preventDefault();
    const name = String(new FormData(event.currentTarget).get("name") ?? "").trim();
    if (name && (await save(name))) setNaming(false);
  }
  return (
    <section aria-label="Saved views" className="mt-5 min-h-0 overflow-y-auto text-sm">
      <p className="px-4 text-faint text-xs" aria-hidden="true">
        Saved views
      </p>
      <ul>
        {views.map((view) => (
          <li key={view.id} className="group flex items-center pr-1 pl-4 hover:bg-shade">
            <a
              href={`/${slug}/${view.address}`}
              title={view.by ? `${view.name}, saved by ${view.by}` : view.name}
              onClick={(event) => {
                if (event.ctrlKey || event.metaKey || event.shiftKey) return;
                event.preventDefault();
                open(view);
              }}
              className="min-w-0 flex-1 truncate py-1"
            >
              {view.name}
            </a>
            {mayChange && (
              <button
                type="button"
                aria-label={`Delete the view ${view.name}`}
                title="Delete"
                onClick={() => remove(view)}
                className="p-1.5 text-faint opacity-0 hover:text-ink focus-visible:opacity-100 group-hover:opacity-100"
              >
                <X size={12} aria-hidden="true" />
              </button>
            )}
          </li>
        ))}
      </ul>
      {mayChange && (
        <Button plain className="mx-4 py-1 text-faint text-xs" onClick={() => setNaming(true)}>
          Save this view
        </Button>
      )}
      <Dialog title="Save this view" open={naming} onOpen={setNaming}>
        <form onSubmit={keep} className="space-y-3">
          <Field
            label="name"
            name="name"
            maxLength={100}
            required
            autoFocus
            defaultValue={document.title.split(" · ")[0]}
            hint="Saves place, period, filters, sorting and selected row for everyone on the site."
          />
          <MainButton type="submit">Save</MainButton>
        </form>
      </Dialog>
    </section>
  );
}
