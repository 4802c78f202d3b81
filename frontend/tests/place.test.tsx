// @vitest-environment jsdom
/** Where one is: shown without drawing anew, and kept in the address. */
import { QueryClientProvider } from "@tanstack/react-query";
import { act, cleanup, render, screen } from "@testing-library/react";
import { Profiler, type ProfilerOnRenderCallback } from "react";
import { afterEach, beforeEach, describe, expect, test, vi } from "vitest";
import { queryClient, type Plan } from "../src/api/client";
import { hrefOf } from "../src/api/queries";
import { follow, read, write } from "../src/app/address";
import { Now } from "../src/app/Now";
import { desk } from "../src/desk/desk";
import { arrive, put, run, select } from "../src/desk/place";
import type { Edit } from "../src/page/edit";
import { strengthsOf } from "../src/page/marks";
import { Page } from "../src/page/Page";
import { flatten } from "../src/page/tokens";
import { player } from "../src/player/player";
import { head, page, seconds } from "./made";

const WORDS = 30_000;
const IN_A_PASSAGE = 60;

const words = page(...Array.from({ length: WORDS / IN_A_PASSAGE }, () => ({ words: Array.from({ length: IN_A_PASSAGE }, () => "so") })));
const tokens = flatten(words);

beforeEach(() => {
  desk().set({ playing: false, magnification: "prose", stage: "", edition: null });
  arrive();
});
afterEach(() => {
  cleanup();
  vi.unstubAllGlobals();
  vi.restoreAllMocks();
});

describe("the clock", () => {
  test("goes on while music is played before the first word, where the playhead stands still", () => {
    const plan = { spans: [{ laid: 0, at: seconds(6), until: seconds(16), handover: seconds(6) }], length: seconds(16) } as unknown as Plan;
    render(<Now plan={plan} />);
    expect(screen.getByLabelText("Place").textContent).toBe("0:06.0");
    const heard = vi.spyOn(player, "heard").mockReturnValue({ plan, at: seconds(2.5) });
    desk().set({ playing: true });
    act(() => run(0));
    expect(screen.getByLabelText("Place").textContent).toBe("0:02.5");
    // What is tried has another programme: the clock keeps to the one that is edited.
    heard.mockReturnValue({ plan: { ...plan }, at: seconds(2.5) });
    act(() => run(seconds(1)));
    expect(screen.getByLabelText("Place").textContent).toBe("0:07.0");
  });
});

describe("the page of 30,000 words", () => {
  const drawn = vi.fn<ProfilerOnRenderCallback>();
  const reveal = vi.fn();

  beforeEach(() => {
    vi.stubGlobal("ResizeObserver", class { observe() {} unobserve() {} disconnect() {} }); // prettier-ignore
    vi.spyOn(Element.prototype, "clientHeight", "get").mockReturnValue(700);
    vi.spyOn(Element.prototype, "clientWidth", "get").mockReturnValue(800);
    vi.spyOn(HTMLElement.prototype, "offsetHeight", "get").mockReturnValue(120);
    Object.defineProperty(document, "fonts", { value: { ready: new Promise(() => undefined) }, configurable: true });
    Element.prototype.scrollBy = reveal;
    const props = { page: words, head: head(), tokens, sources: new Map(), voices: new Map(), plan: undefined, marks: [], strengths: strengthsOf(), edit: {} as Edit };
    render(
      <QueryClientProvider client={queryClient}>
        <Profiler id="page" onRender={drawn}>
          <Page {...props} register={() => undefined} />
        </Profiler>
      </QueryClientProvider>,
    );
    drawn.mockClear();
  });

  const now = () => [...document.querySelectorAll<HTMLElement>("[data-now]")].map((each) => each.dataset["at"]);

  test("shows the word at the playhead, without being drawn anew for any of 600 frames", () => {
    desk().set({ playing: true });
    drawn.mockClear();
    for (let frame = 0; frame < 600; frame++) act(() => run(frame * (seconds(10) / 600)));
    expect(now()).toEqual([`${seconds(9.5)}`]);
    expect(document.querySelector<HTMLElement>("[data-now]")?.style.getPropertyValue("--played")).toMatch(/^0\.9/);
    expect(drawn).not.toHaveBeenCalled();
  });

  test("shows it where one clicks, too, and still does when the words are drawn anew", () => {
    act(() => put(seconds(3)));
    expect(now()).toEqual([`${seconds(3)}`]);
    act(() => select({ anchor: seconds(2), focus: seconds(4) }));
    expect(drawn).toHaveBeenCalled();
    expect(now()).toEqual([`${seconds(3)}`]);
  });

  test("says where the caret stands, once it stands", async () => {
    act(() => put(seconds(3)));
    act(() => put(seconds(62)));
    await vi.waitFor(() => expect(document.querySelector("[aria-live]")?.textContent).toBe("so, 1:02"));
  });
});

describe("the address", () => {
  beforeEach(() => window.history.replaceState(null, "", "/episodes/ep"));

  test("of a place leads back to the same word", () => {
    const leave = follow({ edition: null, stage: "gather" });
    for (const token of [tokens.list[7], tokens.list[29_999]]) {
      const at = (token?.at ?? 0) + 17; // edges seldom fall on milliseconds
      desk().set({ edition: "two", stage: "cut" });
      put(at);
      window.dispatchEvent(new Event("pagehide"));
      const found = read(window.location.search);
      expect(found).toMatchObject({ edition: "two", stage: "cut", found: null });
      expect(found.at - at).toBeGreaterThanOrEqual(0);
      expect(found.at - at).toBeLessThan(seconds(0.001) + 1);
    }
    leave();
  });

  test("goes before what was open last, and is true after a moment", async () => {
    window.history.replaceState(null, "", "/episodes/ep?edition=three&at=12.5&stage=read");
    const leave = follow({ edition: "one", stage: "gather" });
    expect(desk()).toMatchObject({ edition: "three", stage: "read" });
    desk().set({ stage: "tidy" });
    await vi.waitFor(() => expect(window.location.search).toBe("?edition=three&stage=tidy&at=12.5"));
    leave();
  });

  test("keeps the word that a search found until that is reached", async () => {
    window.history.replaceState(null, "", "/episodes/ep?recording=r&from=480");
    const leave = follow({ edition: null, stage: "gather" });
    desk().set({ stage: "tidy" });
    await new Promise((resolve) => setTimeout(resolve, 300));
    expect(read(window.location.search).found).toEqual({ recording: "r", at: 480 });
    write();
    expect(window.location.search).toBe("?stage=tidy");
    leave();
  });

  test("without anything opens what was open last", () => {
    follow({ edition: "one", stage: "gather" })();
    expect(desk()).toMatchObject({ edition: "one", stage: "gather" });
  });

  test("of a word that was found names its recording and the place in it", () => {
    const address = hrefOf({ episode_id: "ep", recording_id: "rec 1", at: 480 });
    expect(read(address.slice(address.indexOf("?"))).found).toEqual({ recording: "rec 1", at: 480 });
  });

  test.each(["?at=far", "?at=-3", "?at=1e999"])("that makes no sense, such as %s, leads to the beginning", (search) => expect(read(search).at).toBe(0));
});
