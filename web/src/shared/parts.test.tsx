// @vitest-environment jsdom
import { cleanup, render, screen } from "@testing-library/react";
import userEvent from "@testing-library/user-event";
import { Tooltip } from "radix-ui";
import { afterEach, describe, expect, it, vi } from "vitest";
import { ProblemError } from "../api/client";
import { Figure, Gain, Named } from "../listing/cells";
import { MarkWord } from "../moves/MarkWord";
import { Ledger, LedgerAroundAxis } from "../pages/Ledger";
import { Chips } from "./Chips";
import { EvidenceMark } from "./EvidenceMark";
import { Ghost } from "./Ghost";
import { Part } from "./Part";
import { Button, Choice, Failed, Field, Help, Notice, Words } from "./parts";
import { Range } from "./Range";
import { Views } from "./Views";
import { WalkPoints } from "./WalkPoints";

afterEach(cleanup);
const box = (name: string | RegExp) => screen.getByRole("img", { name });

describe("Range", () => {
  const usual = { low: 0.04, high: 0.09, usual: 0.06, most: 0.25, words: "CTR 1 %; usual: 4 % to 9 %" } as const;
  const dot = (value: number, below: "bad" | "good" = "bad") => {
    render(<Range value={value} {...usual} below={below} />);
    return box(usual.words).querySelector("circle");
  };

  it("marks what is below the usual range as a loss, unless less is better", () => {
    expect(dot(0.01)?.getAttribute("class")).toContain("rust");
    cleanup();
    expect(dot(0.01, "good")?.getAttribute("class")).toContain("spruce");
  });

  it("leaves what is usual in ink, and marks what is above", () => {
    expect(dot(0.06)?.getAttribute("class")).toContain("ink");
    cleanup();
    expect(dot(0.2)?.getAttribute("class")).toContain("spruce");
  });

  it("puts larger values further to the right and never outside", () => {
    const at = [0, 0.01, 0.25, 3].map((value) => {
      const x = Number(dot(value)?.getAttribute("cx"));
      cleanup();
      return x;
    });
    expect(at).toEqual([...at].sort((a, b) => a - b));
    expect(at[0]).toBe(4);
    expect(at.at(-1)).toBe(108);
  });
});

describe("the ledger line", () => {
  const row = { clicks: 40, snippet: 30, rank: 20, unite: 10 };
  const widths = (name: RegExp) => [...box(name).querySelectorAll<HTMLElement>(".data")].map((one) => one.style.width);

  it("draws every part as its share of the longest", () => {
    render(<Ledger row={row} longest={200} />);
    expect(widths(/earned 40/)).toEqual(["20%", "15%", "10%", "5%"]);
  });

  it("has one scale on both sides of its axis", () => {
    render(<LedgerAroundAxis row={row} added={60} />);
    // 60 clicks fill the right side of 60 %, so 40 clicks fill the left side of 40 %.
    expect(widths(/earned 40/)[0]).toBe("100%");
    expect(widths(/earned 40/)[1]).toBe("50%");
  });

  it("cuts what does not fit and says so by a gap", () => {
    render(<LedgerAroundAxis row={{ ...row, clicks: 4000 }} added={60} />);
    expect(widths(/earned 4/)[0]).toBe("100%");
    expect(box(/earned 4/).firstElementChild?.className).toContain("border-l-2");
  });

  it("is empty where nothing can be compared", () => {
    render(<Ledger row={{ clicks: 0, snippet: 0, rank: 0, unite: 0 }} longest={0} />);
    expect(widths(/earned 0/)).toEqual(["0%", "0%", "0%", "0%"]);
  });

  it("says its parts in words", () => {
    render(<Ledger row={row} longest={100} />);
    expect(
      box("Clicks of the period: earned 40, by a better snippet 30, by a better position 20, by resolving clashes 10"),
    ).toBeTruthy();
  });
});

describe("grades", () => {
  it("have a word next to their square", () => {
    render(<EvidenceMark grade="likely" />);
    expect(screen.getByText("likely").className).not.toContain("sr-only");
  });

  it("keep the word for screen readers where only the square has room", () => {
    render(<EvidenceMark grade="firm" square />);
    expect(screen.getByText("firm").className).toContain("sr-only");
    expect(screen.getByTitle(/^firm: /)).toBeTruthy();
  });

  it("stand at a figure only where there is something to be sure of", () => {
    const amounts = { gain_month: 3, lost_month: 1, potential_month: 2, opportunity_month: 3 };
    render(<Gain row={amounts} grade="too little data" />);
    expect(screen.queryByText("too little data")).toBeNull();
    cleanup();
    render(<Gain row={amounts} grade="firm" />);
    expect(screen.getByText("firm")).toBeTruthy();
  });
});

describe("figures and names", () => {
  it("write an unknown value as a dash, never as 0", () => {
    render(<Figure value={null} />);
    expect(screen.getByText("–")).toBeTruthy();
  });

  it("separate thousands by a space that does not break", () => {
    const { container } = render(<Figure value={12345} />);
    expect(container.textContent).toBe("12\u00a0345");
  });

  it("show a decision below the name", () => {
    const mark = { word: "to do", move: 1, why: "soon" } as never;
    render(<Named name="canoe" title="t" mark={<MarkWord mark={mark} />} below="/canoe/" />);
    expect(screen.getByText("to do").getAttribute("title")).toBe("soon");
  });

  it("show nothing where nothing was decided", () => {
    const { container } = render(<MarkWord mark={undefined} />);
    expect(container.textContent).toBe("");
  });
});

describe("controls", () => {
  it("act on a click and not while disabled", async () => {
    const act = vi.fn();
    render(
      <>
        <Button onClick={act}>Do it</Button>
        <Button onClick={act} disabled>
          Not now
        </Button>
      </>,
    );
    await userEvent.click(screen.getByRole("button", { name: "Do it" }));
    await userEvent.click(screen.getByRole("button", { name: "Not now" }));
    expect(act).toHaveBeenCalledTimes(1);
  });

  it("submit no form unless that is their type", async () => {
    const submit = vi.fn((event) => event.preventDefault());
    render(
      <form onSubmit={submit}>
        <Button>Look</Button>
        <Help name="How it's calculated" />
      </form>,
    );
    await userEvent.click(screen.getByRole("button", { name: "Look" }));
    await userEvent.click(screen.getByRole("button", { name: "How it's calculated" }));
    expect(submit).not.toHaveBeenCalled();
  });

  it("have labels that name them", () => {
    render(
      <>
        <Field label="section" hint="The start of the path." />
        <Choice label="effort">
          <option>an hour</option>
        </Choice>
        <Words label="note" />
      </>,
    );
    expect(screen.getByLabelText(/section/).tagName).toBe("INPUT");
    expect(screen.getByLabelText("effort").tagName).toBe("SELECT");
    expect(screen.getByLabelText("note").tagName).toBe("TEXTAREA");
  });

  it("bound what can be typed as a text", () => {
    render(<Words label="note" />);
    expect(screen.getByLabelText("note").getAttribute("maxlength")).toBe("5000");
  });
});

describe("views", () => {
  it("say which is chosen and lead to another", async () => {
    const choose = vi.fn();
    render(<Views<"a" | "b"> views={{ a: "First", b: "Second" }} chosen="a" choose={choose} />);
    expect(screen.getByRole("button", { name: "First" }).getAttribute("aria-pressed")).toBe("true");
    await userEvent.click(screen.getByRole("button", { name: "Second" }));
    expect(choose).toHaveBeenCalledWith("b");
  });
});

describe("chips", () => {
  const known = ["missing", "double"];
  it("add and remove one and keep the others", async () => {
    const choose = vi.fn();
    const { rerender } = render(
      <Chips label="problem" known={known} chosen={["missing"]} count={() => 3} choose={choose} />,
    );
    await userEvent.click(screen.getByRole("checkbox", { name: /double/ }));
    expect(choose).toHaveBeenLastCalledWith(["missing", "double"]);
    rerender(<Chips label="problem" known={known} chosen={known} count={() => 3} choose={choose} />);
    await userEvent.click(screen.getByRole("checkbox", { name: /missing/ }));
    expect(choose).toHaveBeenLastCalledWith(["double"]);
  });

  it("claim no number while it is not known", () => {
    render(<Chips label="problem" known={["missing"]} chosen={[]} count={() => undefined} choose={() => {}} />);
    expect(screen.getByRole("checkbox").parentElement?.textContent?.trim()).toBe("missing");
  });

  it("are not there where there is nothing to choose", () => {
    const { container } = render(<Chips label="problem" known={[]} chosen={[]} count={() => 0} choose={() => {}} />);
    expect(container.textContent).toBe("");
  });
});

describe("states of a place", () => {
  it("say what failed in the words of the server, and offer another try", async () => {
    const again = vi.fn();
    const problem = { title: "Too busy", detail: "Many wait.", remedy: "Try in a minute.", status: 503, problems: [] };
    render(<Failed error={new ProblemError(problem as never)} retry={again} />);
    expect(screen.getByRole("alert").textContent).toContain("Many wait. Try in a minute.");
    await userEvent.click(screen.getByRole("button", { name: "Try again" }));
    expect(again).toHaveBeenCalled();
  });

  it("say what is unknown as it is", () => {
    render(<Failed error={new Error("lost")} />);
    expect(screen.getByRole("alert").textContent).toContain("lost");
    expect(screen.queryByRole("button")).toBeNull();
  });

  it("are announced politely unless something is wrong", () => {
    render(<Notice title="No rows">Nothing fits.</Notice>);
    expect(screen.getByRole("status").textContent).toContain("Nothing fits.");
    expect(screen.queryByRole("alert")).toBeNull();
  });

  it("hold the place of six rows and say what is computed", () => {
    render(<Ghost words="Adding up." height={52} />);
    expect(screen.getByRole("status").textContent).toBe("Adding up.");
    expect(screen.getByRole("status").querySelectorAll("[style*='52px']").length).toBe(6);
  });
});

describe("a part of a file", () => {
  it("is a section with its title and can be linked to", () => {
    render(
      <Tooltip.Provider>
        <Part title="Its weeks" id="weeks">
          Twelve.
        </Part>
      </Tooltip.Provider>,
    );
    expect(screen.getByRole("heading", { level: 3 }).textContent).toBe("Its weeks");
    expect(document.getElementById("weeks")?.textContent).toContain("Twelve.");
  });
});

describe("points of a chart", () => {
  const points = ["first", "second", "third"];
  const chart = (at: number, pick: (one: string) => void) =>
    render(
      <WalkPoints label="Points" points={points} at={at} words={(one) => `the ${one}`} pick={pick}>
        <svg />
      </WalkPoints>,
    );

  it("are reached by arrow keys and say where one is", async () => {
    const pick = vi.fn();
    chart(0, pick);
    const slider = screen.getByRole("slider");
    expect(slider.getAttribute("aria-valuetext")).toBe("the first");
    slider.focus();
    await userEvent.keyboard("{ArrowRight}");
    expect(pick).toHaveBeenCalledWith("second");
  });

  it("end at the last one", async () => {
    const pick = vi.fn();
    chart(2, pick);
    screen.getByRole("slider").focus();
    await userEvent.keyboard("{ArrowRight}{End}");
    expect(pick).not.toHaveBeenCalled();
  });

  it("say so where none is selected", () => {
    chart(-1, () => {});
    expect(screen.getByRole("slider").getAttribute("aria-valuetext")).toBe("none selected");
  });
});
