// A picture within a text: its name only, not stored. Its alternative text is editable in place.
import { mergeAttributes, Node } from "@tiptap/core";

export const Picture = Node.create({
  name: "picture",
  group: "inline",
  inline: true,
  atom: true,
  addAttributes: () => ({
    alt: { default: "", parseHTML: (element) => element.getAttribute("alt") ?? "" },
    title: {
      default: "",
      parseHTML: (element) => element.getAttribute("title") ?? nameIn(element.getAttribute("src")),
    },
  }),
  parseHTML: () => [{ tag: "img" }],
  renderHTML: ({ HTMLAttributes }) => ["img", mergeAttributes(HTMLAttributes)],
  addNodeView() {
    return ({ node, getPos, editor }) => {
      const dom = document.createElement("span");
      dom.className = "picture";
      dom.contentEditable = "false";
      const field = document.createElement("input");
      field.value = node.attrs.alt;
      field.placeholder = "What does the picture show?";
      field.setAttribute("aria-label", `Text of the picture ${node.attrs.title || "without a name"}`);
      field.addEventListener("change", () => {
        const at = getPos();
        if (at !== undefined)
          editor.view.dispatch(editor.state.tr.setNodeMarkup(at, undefined, { ...node.attrs, alt: field.value }));
      });
      dom.append(`${["Picture", node.attrs.title].filter(Boolean).join(" ")}: `, field);
      return { dom, stopEvent: () => true, ignoreMutation: () => true };
    };
  },
});

/** The file name in an address; empty for a data URL. */
function nameIn(source: string | null): string {
  if (!source || source.startsWith("data:")) return "";
  return source.split("?")[0]?.split("/").pop() ?? "";
}
