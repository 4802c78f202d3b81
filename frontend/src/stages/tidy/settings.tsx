import { useQuery } from "@tanstack/react-query";
import { client, got, queryClient } from "../../api/client";
import type { SchemaTidyChange, SchemaTidySettingsOut as TidySettings } from "../../api/schema";
import { desk } from "../../desk/desk";
import { Pick } from "../../ui/fields";
import type { Kind } from "./judging";

export interface Settings {
  known: TidySettings | undefined;
  change: (change: Partial<SchemaTidyChange>) => void;
}

const UNCHANGED: SchemaTidyChange = { fillers: null, cues: null, remarks: null, rhythm: null, rests: null, voices: null, keep_answers: null, keep_laughter: null, soften_breaths: null, actions: null, on_import: null, own_rests: true };

/** What the show wants tidied, and a way to change that. Nothing is cut by it: what is found changes. */
export function useTidySettings(show: string): Settings {
  const key = ["tidy", show];
  const params = { path: { show_id: show } };
  const known = useQuery({ queryKey: key, queryFn: () => got(client.GET("/api/shows/{show_id}/tidy", { params })), staleTime: 60_000 }).data;
  const change = (wanted: Partial<SchemaTidyChange>) =>
    void got(client.PATCH("/api/shows/{show_id}/tidy", { params, body: { ...UNCHANGED, ...wanted } })).then(
      (after) => {
        queryClient.setQueryData(key, after);
        void queryClient.invalidateQueries({ queryKey: ["rests"] });
        return queryClient.invalidateQueries({ queryKey: ["findings"] });
      },
      (error: Error) => desk().warn(error.message),
    );
  return { known, change };
}

const ACTIONS = [
  ["strike", "strike"],
  ["lift", "lift"],
  ["short rest", "leave a short rest"],
] as const;

/** When accepted with a kind of finding. */
export function Action({ kind, settings }: { kind: Kind; settings: Settings }) {
  if (kind === "long rest" || kind === "breath" || !settings.known) return null;
  const now = settings.known.actions[kind] ?? "strike";
  return (
    <label className="mt-2 flex items-center justify-between gap-2 text-soft">
      When accepted
      <Pick label="When accepted" value={now} options={ACTIONS} onChange={(action) => settings.change({ actions: { [kind]: action } })} />
    </label>
  );
}
