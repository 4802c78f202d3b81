import { CircleStop } from "lucide-react";
import type { Job } from "../api/client";
import { bytes, clock } from "../api/time";
import { Button, Progress, Trouble } from "./controls";

interface WorkingProps {
  job: Job | undefined;
  total: number;
  verb: string;
  onStop: (id: string) => void;
  /** What its progress counts: media time, bytes, or work of different kinds, of which only a share can be told. */
  counts?: keyof typeof TOLD;
}

const TOLD = {
  time: (done: number, all: number) => `${clock(done)} of ${clock(all)}`,
  bytes: (done: number, all: number) => `${bytes(done)} of ${bytes(all)}`,
  work: (done: number, all: number) => `${Math.min(100, Math.round((done / all) * 100))} %`,
};

/** Seconds as people say them, no finer than they are known. */
export const lasting = (seconds: number) => (seconds < 10 ? "10 s" : seconds < 90 ? `${Math.round(seconds / 10) * 10} s` : seconds < 5400 ? `${Math.round(seconds / 60)} min` : `${(seconds / 3600).toFixed(1)} h`);

/** Work under way, how far it has come, and a way to stop it. */
export function Working({ job, total, verb, onStop, counts = "time" }: WorkingProps) {
  const left = job?.state === "running" && job.left ? lasting(job.left) : "";
  const all = total || job?.total || 0;
  return (
    <div className="space-y-1">
      <div className="flex items-center justify-between gap-2">
        <span>
          {job?.cancel ? "Stopping" : job?.state === "running" ? verb : "Waiting for its turn"}{" "}
          {left && <span className="text-xs whitespace-nowrap text-soft">about {left} left</span>}
          {!left && all > 0 && (
            <span className="font-mono text-xs whitespace-nowrap text-soft">
              {TOLD[counts](job?.done ?? 0, all)}
            </span>
          )}
        </span>
        {job && !job.cancel && (
          <Button look="quiet" className="!px-1.5" aria-label={`Cancel: ${verb}`} onClick={() => onStop(job.id)}>
            <CircleStop size={14} /> Cancel
          </Button>
        )}
      </div>
      <Progress label={verb} done={job?.done ?? 0} total={all} />
      {job?.state === "queued" && job.trouble && <Trouble>{job.trouble} It goes on by itself.</Trouble>}
    </div>
  );
}
