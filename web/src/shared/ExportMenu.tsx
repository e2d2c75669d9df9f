// Export the whole list as CSV, XLSX or JSON, with its description inside.
import { Download } from "lucide-react";
import { DropdownMenu } from "radix-ui";
import { toast } from "sonner";
import { download, withParameters } from "./export";

const KINDS = ["csv", "xlsx", "json"] as const;

type Props = { base: string; options: Record<string, unknown>; rows: string };

export function ExportMenu({ base, options, rows }: Props) {
  return (
    <DropdownMenu.Root>
      <DropdownMenu.Trigger
        className="inline-flex min-h-6 items-center gap-1.5 whitespace-nowrap link"
        title="Export the list (e: as CSV)"
      >
        <Download size={13} aria-hidden="true" /> Export
      </DropdownMenu.Trigger>
      <DropdownMenu.Portal>
        <DropdownMenu.Content align="end" className="z-30 border border-strong-rule bg-sheet p-1 shadow-lg">
          {KINDS.map((format) => (
            <DropdownMenu.Item
              key={format}
              onSelect={() => save(base, options, rows, format)}
              className="cursor-pointer px-3 py-1 data-[highlighted]:bg-shade"
            >
              {rows} as {format.toUpperCase()}
            </DropdownMenu.Item>
          ))}
        </DropdownMenu.Content>
      </DropdownMenu.Portal>
    </DropdownMenu.Root>
  );
}

/** Save a list as a file. */
export function save(base: string, options: Record<string, unknown>, rows: string, format: string) {
  download(withParameters(base, { ...options, format }));
  toast(`Exporting ${rows} as ${format.toUpperCase()}, with what made the list inside.`);
}
