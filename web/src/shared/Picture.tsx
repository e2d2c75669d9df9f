// A chart that can be saved as SVG or PNG, as shown.
import { Image } from "lucide-react";
import { DropdownMenu } from "radix-ui";
import { type ReactNode, useRef } from "react";
import { toast } from "sonner";
import { pictureFile } from "./pictureFile";

type Props = { name: string; children: ReactNode };

export function Picture({ name, children }: Props) {
  const box = useRef<HTMLDivElement>(null);
  return (
    <div className="group relative">
      <DropdownMenu.Root>
        <DropdownMenu.Trigger
          aria-label={`Save the picture: ${name}`}
          title="Save the picture"
          className="absolute top-0 right-0 z-10 bg-paper p-1 text-faint opacity-0 focus-visible:opacity-100 group-hover:opacity-100 data-[state=open]:opacity-100"
        >
          <Image size={14} aria-hidden="true" />
        </DropdownMenu.Trigger>
        <DropdownMenu.Portal>
          <DropdownMenu.Content align="end" className="z-30 border border-strong-rule bg-sheet p-1 shadow-lg">
            {(["svg", "png"] as const).map((kind) => (
              <DropdownMenu.Item
                key={kind}
                onSelect={() => box.current && savePicture(box.current, name, kind)}
                className="cursor-pointer px-3 py-1 data-[highlighted]:bg-shade"
              >
                as {kind.toUpperCase()}
              </DropdownMenu.Item>
            ))}
          </DropdownMenu.Content>
        </DropdownMenu.Portal>
      </DropdownMenu.Root>
      <div ref={box}>{children}</div>
    </div>
  );
}

async function savePicture(box: HTMLElement, name: string, kind: "svg" | "png") {
  try {
    const link = document.createElement("a");
    link.href = await pictureFile(box, kind);
    link.download = `${name.replace(/[^a-z0-9]+/gi, "-").toLowerCase()}.${kind}`;
    link.click();
  } catch {
    toast.error("The picture could not be saved. Try the other format or a larger window.");
  }
}
