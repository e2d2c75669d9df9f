// The text of a draft: a rich-text editor limited to the blocks of a page.
import { TableKit } from "@tiptap/extension-table";
import { TextSelection } from "@tiptap/pm/state";
import { EditorContent, type Editor as Loaded, useEditor, useEditorState } from "@tiptap/react";
import StarterKit from "@tiptap/starter-kit";
import { Toolbar } from "radix-ui";
import { type FormEvent, useEffect, useRef, useState } from "react";
import { Button } from "../shared/parts";
import { FAULTS, type Fault, FaultMarks, placeOf } from "./faultMarks";
import { Picture } from "./Picture";

const READ_MS = 200; // after the last key, so typing is never delayed

const written = (html: string) => html.replaceAll("<p></p>", "").replaceAll("\n", "");

export type Handle = {
  insert: (html: string) => void; // at the cursor
  append: (html: string) => void; // at the end
  show: (quote: string) => void;
};
type Props = {
  text: string;
  taken: number; // raised when the text came from elsewhere
  may: boolean;
  faults: Fault[];
  change: (text: string) => void;
  begin: () => void;
  handle: (handle: Handle) => void;
};

export default function Editor({ text, taken, may, faults, change, begin, handle }: Props) {
  const timer = useRef<ReturnType<typeof setTimeout>>(undefined);
  const first = useRef(taken); // the editor's initial text
  const latest = useRef({ text, may, change, begin });
  latest.current = { text, may, change, begin };
  const editor = useEditor({
    extensions: [
      StarterKit.configure({
        link: { openOnClick: false, protocols: ["http", "https", "mailto"] },
        code: false,
        codeBlock: false,
        strike: false,
        underline: false,
        horizontalRule: false,
      }),
      TableKit.configure({ table: { resizable: false } }),
      Picture,
      FaultMarks,
    ],
    content: text,
    editable: may,
    editorProps: {
      attributes: () => ({
        "aria-label": "Text of the draft",
        role: "textbox",
        "aria-multiline": "true",
        "aria-readonly": String(!latest.current.may),
        class: "draft-text",
      }),
    },
    onFocus: () => latest.current.begin(),
    onUpdate: ({ editor: now }) => {
      if (!now.isEditable) return; // corrections by the editor itself in someone else's text
      clearTimeout(timer.current);
      timer.current = setTimeout(() => flush(now), READ_MS);
    },
    onBlur: ({ editor: now }) => flush(now),
  });

  const empty = useEditorState({ editor, selector: ({ editor: one }) => one.isEmpty });

  /**
   * Report typed text even if someone else became the writer since: it is kept then.
   * A paragraph that the editor itself adds at the end is not a change.
   */
  function flush(now: Loaded) {
    if (timer.current === undefined || now.isDestroyed) return;
    clearTimeout(timer.current);
    timer.current = undefined;
    const html = written(now.getHTML());
    if (html !== written(latest.current.text)) latest.current.change(html);
  }

  useEffect(() => {
    editor.setEditable(may, false);
  }, [editor, may]);
  // biome-ignore lint/correctness/useExhaustiveDependencies: only what came from elsewhere is put in
  useEffect(() => {
    if (taken === first.current || written(editor.getHTML()) === written(text)) return;
    const { from, to } = editor.state.selection;
    editor.commands.setContent(text, { emitUpdate: false });
    // Keep the cursor, or move it to the nearest position that allows text.
    const { doc, tr } = editor.state;
    const place = (at: number) => doc.resolve(Math.min(at, doc.content.size));
    editor.view.dispatch(tr.setSelection(TextSelection.between(place(from), place(to))));
  }, [editor, taken]);
  useEffect(() => {
    editor.view.dispatch(editor.state.tr.setMeta(FAULTS, faults).setMeta("addToHistory", false));
  }, [editor, faults]);
  useEffect(
    () =>
      handle({
        insert: (html) => editor.chain().focus().insertContent(html).run(),
        append: (html) => editor.chain().focus("end").insertContentAt(editor.state.doc.content.size, html).run(),
        show: (quote) => {
          const place = placeOf(editor.state.doc, quote);
          if (place) editor.chain().focus().setTextSelection(place).scrollIntoView().run();
        },
      }),
    [editor, handle],
  );
  return (
    <>
      {may && <Tools editor={editor} />}
      {may && empty && (
        <p className="px-6 pt-3 text-faint">
          Write here, paste a text with headings, or insert the outline from Brief or Proposals.
        </p>
      )}
      <EditorContent editor={editor} className="min-h-0 flex-1 overflow-auto" />
    </>
  );
}

const LEVELS = [1, 2, 3] as const;

function Tools({ editor }: { editor: Loaded }) {
  const [linking, setLinking] = useState(false);
  const now = useEditorState({
    editor,
    selector: ({ editor: one }) => ({
      level: LEVELS.find((level) => one.isActive("heading", { level })) ?? 0,
      bold: one.isActive("bold"),
      italic: one.isActive("italic"),
      bullets: one.isActive("bulletList"),
      numbers: one.isActive("orderedList"),
      quote: one.isActive("blockquote"),
      link: one.isActive("link"),
      table: one.isActive("table"),
      undo: one.can().undo(),
      redo: one.can().redo(),
    }),
  });
  const act = () => editor.chain().focus();
  const tool = (name: string, words: string, pressed: boolean | undefined, run: () => unknown, disabled = false) => (
    <Toolbar.Button
      key={name}
      title={name}
      aria-pressed={pressed}
      disabled={disabled}
      onClick={run}
      className={`min-h-6 min-w-6 px-1.5 disabled:opacity-40 ${pressed ? "bg-ink text-paper" : "hover:bg-shade"}`}
    >
      {words}
    </Toolbar.Button>
  );
  return (
    <div className="border-rule border-b">
      <Toolbar.Root aria-label="Kinds of text" className="flex flex-wrap items-center gap-x-0.5 px-4 py-1">
        {LEVELS.map((level) =>
          tool(level === 1 ? "Main heading" : `Heading ${level}`, `H${level}`, now.level === level, () =>
            act().toggleHeading({ level }).run(),
          ),
        )}
        {tool("Bold", "Bold", now.bold, () => act().toggleBold().run())}
        {tool("Italic", "Italic", now.italic, () => act().toggleItalic().run())}
        {tool("List", "List", now.bullets, () => act().toggleBulletList().run())}
        {tool("Numbered list", "1, 2, 3", now.numbers, () => act().toggleOrderedList().run())}
        {tool("Quotation", "Quote", now.quote, () => act().toggleBlockquote().run())}
        {tool("Table", "Table", now.table, () => act().insertTable({ rows: 3, cols: 3 }).run(), now.table)}
        {tool("Link", "Link", now.link, () => setLinking(!linking))}
        <span className="ml-auto" />
        {tool("Undo", "Undo", undefined, () => act().undo().run(), !now.undo)}
        {tool("Redo", "Redo", undefined, () => act().redo().run(), !now.redo)}
      </Toolbar.Root>
      {linking && <LinkForm editor={editor} close={() => setLinking(false)} />}
    </div>
  );
}

function LinkForm({ editor, close }: { editor: Loaded; close: () => void }) {
  function set(event: FormEvent<HTMLFormElement>) {
    event.preventDefault();
    const address = String(new FormData(event.currentTarget).get("address")).trim();
    const chain = editor.chain().focus().extendMarkRange("link");
    if (address) chain.setLink({ href: address }).run();
    else chain.unsetLink().run();
    close();
  }
  return (
    <form onSubmit={set} className="flex items-baseline gap-2 px-4 pb-1.5">
      <label className="flex flex-1 items-baseline gap-2">
        <span className="text-faint">Leads to</span>
        <input
          name="address"
          // biome-ignore lint/a11y/noAutofocus: it was asked for just now
          autoFocus
          defaultValue={editor.getAttributes("link").href ?? ""}
          placeholder="/guides/… or https://…; empty takes the link away"
          className="min-w-0 flex-1 border border-strong-rule bg-sheet px-2 py-0.5"
        />
      </label>
      <Button type="submit">Set</Button>
      <Button plain onClick={close}>
        Cancel
      </Button>
    </form>
  );
}
