import type { Head, PageWords } from "../../api/client";
import type { BenchProps } from "../../page/stage";
import { Loudness } from "./Loudness";
import { Music } from "./Music";
import { SayAgain } from "./SayAgain";
import { ShowsWay } from "./ShowsWay";
import { Strips } from "./Strips";

export default function SoundBench(props: BenchProps) {
  const { head, page } = props;
  return head && page ? <Bench {...props} head={head} page={page} /> : null;
}

/** In the order of the work: each voice, lines that went wrong, what lies under them, and how loud it all is. */
function Bench(props: BenchProps & { head: Head; page: PageWords }) {
  return (
    <section aria-label="Sound">
      <Strips {...props} />
      <SayAgain {...props} />
      <Music {...props} />
      <Loudness {...props} />
      <ShowsWay {...props} />
    </section>
  );
}
