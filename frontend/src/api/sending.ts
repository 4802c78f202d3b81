/** Files that are sent in parts by the tus protocol; one that was begun before, even in a tab that was closed, goes on. */
import { DetailedError, Upload } from "tus-js-client";
import { Refusal } from "./client";

/** Bytes that are sent at a time: so much is sent again where a connection breaks off. */
const PART = 16_000_000;

/** Seconds after which it is tried again, and again; meanwhile a server may be started anew. */
const RETRIES = [0, 1, 2, 4, 8, 15, 30, 60].map((each) => 1000 * each);

interface Wanted {
  file: File;
  endpoint: string;
  metadata?: Record<string, string>;
  /** What tells it from the same file sent for something else. */
  purpose: string;
  onProgress: (bytes: number) => void;
}

export interface Sending {
  /** The id of the upload once all of it was sent; nothing where it was given up. */
  sent: Promise<string | undefined>;
  giveUp: () => void;
}

export function sendFile({ file, endpoint, metadata = {}, purpose, onProgress }: Wanted): Sending {
  let giveUp: () => void = () => undefined;
  const sent = new Promise<string | undefined>((resolve, reject) => {
    const sending = new Upload(file, {
      endpoint,
      chunkSize: PART,
      retryDelays: RETRIES,
      metadata: { filename: file.name, ...metadata },
      removeFingerprintOnSuccess: true,
      fingerprint: () => Promise.resolve(["jaskel", purpose, file.name, file.size, file.lastModified].join(" ")),
      onProgress,
      onSuccess: () => resolve(sending.url?.slice(sending.url.lastIndexOf("/") + 1)),
      onError: reject,
    });
    giveUp = () => {
      void sending.abort(true).catch(() => undefined);
      resolve(undefined);
    };
    void sending.findPreviousUploads().then(([before]) => {
      if (before) sending.resumeFromPreviousUpload(before);
      sending.start();
    });
  });
  return { sent, giveUp };
}

export interface Refused {
  detail?: string;
  code?: string;
  facts?: { recording?: string };
}

/** What a refusal says, by the server's answer or by what tus makes of it; nothing where the server was not reached. */
export function problemOf(error: unknown): Refused {
  if (error instanceof Refusal) return error.problem as Refused;
  if (!(error instanceof DetailedError)) return {};
  try {
    return JSON.parse(error.originalResponse?.getBody() ?? "") as Refused;
  } catch {
    return {}; // no answer, or none from Jaskel
  }
}
