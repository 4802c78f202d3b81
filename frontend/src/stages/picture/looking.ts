/** What a hand on the monitor does: it turns the camera, or draws round what must not be seen. */
import { create } from "zustand";
import type { SchemaCoverIn as CoverIn } from "../../api/schema";

interface LookingState {
  drawing: boolean;
  /** The voice whose face is to be clicked. */
  face: string | null;
  form: CoverIn["form"];
  follows: boolean;
}

export const useLooking = create<LookingState>(() => ({ drawing: false, face: null, form: "blur", follows: true }));

/** The range that is meant: the words that are selected, else the shot at the playhead; the bench knows it. */
export const lookedAt: { range: () => { begin: number; end: number } | null } = { range: () => null };
