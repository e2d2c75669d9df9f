// A page of Help: Markdown with links to other pages of Help, and with the application's pictures.
import Markdown from "react-markdown";
import remarkGfm from "remark-gfm";
import { Button } from "../shared/parts";

/** The page that a link of the guide points to: "running-a-test.md" → "running-a-test"; null for other links. */
const pageOf = (href: string | undefined) => /^(?:\.\.\/)?([a-z-]+)\.md(?:#([a-z-]+))?$/.exec(href ?? "");

export default function HelpText({ text, open }: { text: string; open: (page: string) => void }) {
  return (
    <div className="method space-y-2 leading-snug">
      <Markdown
        remarkPlugins={[remarkGfm]}
        components={{
          a: ({ href, children }) => {
            const page = pageOf(href);
            return page ? (
              <Button plain onClick={() => open(page[2] ?? page[1] ?? "")}>
                {children}
              </Button>
            ) : (
              <a href={href}>{children}</a>
            );
          },
          img: ({ src, alt }) => (
            <img
              src={`/api/guide/pictures/${String(src).split("/").pop()}`}
              alt={alt ?? ""}
              loading="lazy"
              className="my-2 w-full border border-rule"
            />
          ),
        }}
      >
        {text}
      </Markdown>
    </div>
  );
}
