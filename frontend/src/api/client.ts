/** The one way to the server: typed by its OpenAPI description. */
import { QueryClient } from "@tanstack/react-query";
import createClient from "openapi-fetch";
import type { paths, SchemaProblemOut } from "./schema";

export type {
  SchemaBlocksOut as Blocks,
  SchemaEpisodeBrief as EpisodeBrief,
  SchemaEpisodeOut as Episode,
  SchemaExportOut as Export,
  SchemaHeadOut as Head,
  SchemaHostTake as HostTake,
  SchemaJobOut as Job,
  SchemaLayerOut as Layer,
  SchemaPageOut as PageWords,
  SchemaPassageOut as Passage,
  SchemaPlanOut as Plan,
  SchemaRecordingOut as Recording,
  SchemaSessionOut as Session,
  SchemaShowOut as Show,
  SchemaSpanOut as Span,
  SchemaTextOut as BroughtText,
  SchemaTokenOut as Token,
  SchemaTrackOut as Track,
  SchemaViewOut as View,
  SchemaVoiceOut as Voice,
  SchemaWeightsOut as WeightsInfo,
} from "./schema";

/** A refusal in plain words, as the server gave it. */
export class Refusal extends Error {
  constructor(
    readonly problem: Pick<SchemaProblemOut, "detail" | "code"> & Partial<SchemaProblemOut>,
  ) {
    super(problem.detail);
  }
}

export const UNREACHABLE = "Jaskel does not answer. Is it still running where you started it? Nothing that was saved is lost.";

export const client = createClient<paths>({ baseUrl: "" });

/** What a request needs so that a file goes as it is. */
export const asItIs = (file: Blob) => ({
  body: file as never,
  bodySerializer: (body: unknown) => body as Blob,
  headers: { "Content-Type": "application/octet-stream" },
});

type Answer<T> = { data?: T; error?: unknown; response: Response };

/** The body of an answer; throws a Refusal where the server refused or cannot be reached. */
export async function got<T>(answer: Promise<Answer<T>>): Promise<T> {
  let settled: Answer<T>;
  try {
    settled = await answer;
  } catch {
    throw new Refusal({ detail: UNREACHABLE, code: "unreachable" });
  }
  if (settled.error !== undefined) {
    const problem = settled.error as Partial<SchemaProblemOut>;
    // Somebody was signed out: the page asks who is here.
    if (problem.code === "not-signed-in") void queryClient.invalidateQueries({ queryKey: ["me"] });
    throw new Refusal({ detail: UNREACHABLE, code: "unexpected", ...problem });
  }
  return settled.data as T;
}

// The server is on this machine or in this house: that a browser takes itself to be offline is no reason to wait.
const networkMode = "always";

export const queryClient = new QueryClient({
  defaultOptions: { queries: { retry: 1, refetchOnWindowFocus: false, staleTime: 5_000, networkMode }, mutations: { networkMode } },
});
