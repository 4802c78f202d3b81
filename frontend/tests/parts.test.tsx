// @vitest-environment jsdom
/** Parts of the window, drawn into a document. */
import { cleanup, render, screen } from "@testing-library/react";
import userEvent from "@testing-library/user-event";
import { Tooltip } from "radix-ui";
import { useState, type ReactNode } from "react";
import { afterEach, beforeEach, describe, expect, test, vi } from "vitest";
import { Said } from "../src/app/Said";
import { desk, failed } from "../src/desk/desk";
import { arrive, put } from "../src/desk/place";
import type { Edit } from "../src/page/edit";
import { RetypeBox } from "../src/page/RetypeBox";
import { flatten } from "../src/page/tokens";
import { Mishap } from "../src/ui/Mishap";
import { NumberField, numberOf } from "../src/ui/NumberField";
import { page } from "./made";

const draw = (part: ReactNode) => render(<Tooltip.Provider>{part}</Tooltip.Provider>);

beforeEach(() => {
  desk().set({ said: null, troubles: [], retyping: false });
  arrive();
});
afterEach(cleanup);

test.each([
  ["12", 12],
  [" 1,5 ", 1.5],
  ["−3", -3],
  ["", null],
  ["loud", null],
])("%o is the number %o", (text, number) => expect(numberOf(text)).toBe(number));

describe("a number field", () => {
  const changed = vi.fn();

  function Level() {
    const [value, setValue] = useState(-3);
    const change = (next: number) => {
      changed(next);
      setValue(next);
    };
    return <NumberField label="Level" unit="dB" value={value} least={-24} most={24} digits={1} onChange={change} />;
  }

  beforeEach(() => {
    changed.mockReset();
    draw(<Level />);
  });

  const field = () => screen.getByRole<HTMLInputElement>("spinbutton", { name: "Level" });
  const type = async (keys: string) => {
    await userEvent.clear(field());
    await userEvent.type(field(), keys);
  };

  test("takes what is typed at Enter, and keeps the focus", async () => {
    await type("4,5");
    expect(changed).not.toHaveBeenCalled();
    await userEvent.keyboard("{Enter}");
    expect(changed.mock.calls).toEqual([[4.5]]);
    expect(document.activeElement).toBe(field());
    await userEvent.keyboard("{ArrowUp}");
    expect(changed).toHaveBeenLastCalledWith(5.5);
    expect(document.activeElement).toBe(field());
  });

  test("takes it when it is left, within its bounds", async () => {
    await type("90");
    await userEvent.tab();
    expect(changed.mock.calls).toEqual([[24]]);
    expect(field().value).toBe("24");
  });

  test("goes back at Escape", async () => {
    await type("7{Escape}");
    await userEvent.tab();
    expect(changed).not.toHaveBeenCalled();
    expect(field().value).toBe("-3");
  });

  test("says what is no number, and takes nothing from it", async () => {
    await type("loud");
    expect(field().getAttribute("aria-invalid")).toBe("true");
    expect(field().title).toBe("Write a number from -24 to 24");
    await userEvent.keyboard("{Enter}");
    expect(changed).not.toHaveBeenCalled();
    expect(field().value).toBe("-3");
  });
});

describe("what is said under the page", () => {
  test("is what was done, until the next or nine seconds later, with Undo", async () => {
    vi.useFakeTimers({ shouldAdvanceTime: true });
    const undo = vi.fn();
    draw(<Said stays undo={undo} />);
    desk().say("Struck “so”", { undo: true });
    await userEvent.click(await screen.findByRole("button", { name: "Undo" }));
    expect(undo).toHaveBeenCalledOnce();
    await vi.advanceTimersByTimeAsync(9_100);
    expect(screen.queryByText("Struck “so”")).toBeNull();
    vi.useRealTimers();
  });

  test("and what went wrong, which stays until it is dismissed, the same only once", async () => {
    vi.useFakeTimers({ shouldAdvanceTime: true });
    draw(<Said stays undo={vi.fn()} />);
    failed(new Error("The disk is full."));
    failed(new Error("The disk is full."));
    desk().say("Struck “so”");
    await screen.findByText("The disk is full.");
    await vi.advanceTimersByTimeAsync(60_000);
    expect(screen.getAllByText("The disk is full.")).toHaveLength(1);
    await userEvent.click(screen.getByRole("button", { name: "Dismiss: The disk is full." }));
    expect(screen.queryByText("The disk is full.")).toBeNull();
    vi.useRealTimers();
  });
});

test("a part that breaks says so, leaves the others alone, and can be tried again", async () => {
  const silent = vi.spyOn(console, "error").mockImplementation(() => undefined);
  let broken = true;
  const Part = () => {
    if (broken) throw new Error("no such word");
    return <p>the words</p>;
  };
  draw(
    <>
      <Mishap>
        <Part />
      </Mishap>
      <p>the bench</p>
    </>,
  );
  expect(screen.getByRole("alert").textContent).toContain("no such word");
  expect(screen.getByText("the bench")).toBeTruthy();
  broken = false;
  await userEvent.click(screen.getByRole("button", { name: "Try again" }));
  expect(screen.getByText("the words")).toBeTruthy();
  silent.mockRestore();
});

describe("retyping", () => {
  const tokens = flatten(page({ words: ["It", "leeks", "now."] }));
  const operate = vi.fn();
  const focused = vi.spyOn(document, "hasFocus");

  beforeEach(async () => {
    operate.mockReset();
    focused.mockReturnValue(true); // as a browser has it while one goes from one field to another
    draw(
      <>
        <div className="page" role="document" tabIndex={0}>
          <span data-at={tokens.list[1]?.at}>leeks</span>
        </div>
        <button type="button">elsewhere</button>
        <RetypeBox tokens={tokens} edit={{ operate } as unknown as Edit} />
      </>,
    );
    put(tokens.list[1]?.at ?? 0);
    await open();
  });

  async function open() {
    await vi.waitFor(() => expect(screen.queryByRole("textbox")).toBeNull());
    desk().set({ retyping: true });
    const field = await screen.findByRole("textbox", { name: "New text" });
    await vi.waitFor(() => expect(document.activeElement).toBe(field));
  }

  const retype = (text: string) => ({ kind: "retype", ranges: [{ begin: tokens.list[1]?.at, end: tokens.list[2]?.at }], text });

  test("keeps what was typed when the field loses the focus", async () => {
    await userEvent.keyboard("leaks");
    await userEvent.click(screen.getByText("elsewhere"));
    expect(operate.mock.calls).toEqual([[retype("leaks")]]);
    expect(desk().retyping).toBe(false);
  });

  test("waits when one only leaves the window", async () => {
    await userEvent.keyboard("leaks");
    focused.mockReturnValue(false);
    screen.getByRole("textbox").blur();
    expect(operate).not.toHaveBeenCalled();
    expect(desk().retyping).toBe(true);
  });

  test("changes nothing where nothing was typed, nor at Escape, and is done once at Enter", async () => {
    await userEvent.click(screen.getByText("elsewhere"));
    expect(operate).not.toHaveBeenCalled();
    await open();
    await userEvent.keyboard("licks{Escape}");
    expect(operate).not.toHaveBeenCalled();
    await open();
    await userEvent.keyboard("leaks{Enter}");
    expect(operate.mock.calls).toEqual([[retype("leaks")]]);
  });
});
