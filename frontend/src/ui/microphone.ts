/** Why a microphone or camera could not be opened, in words. */
const REASONS: Record<string, string> = {
  NotAllowedError: "The browser was not allowed to use the microphone or camera. Allow it beside the address, and try again.",
  NotFoundError: "There is no microphone here, or not the one that was chosen. Plug one in, or choose another.",
  NotReadableError: "The microphone or camera is in use by another program. Close that one and try again.",
};

export const troubleOf = (error: unknown) => REASONS[error instanceof DOMException ? error.name : ""] ?? "The microphone or camera could not be opened. Choose another and try again.";
