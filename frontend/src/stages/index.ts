/** The stages, in the order of the work; each has the number of its place as its key. To add one, name its module here. */
import type { Stage } from "../page/stage";
import { captions } from "./captions/stage";
import { cut } from "./cut/stage";
import { exporting } from "./export/stage";
import { gather } from "./gather/stage";
import { picture } from "./picture/stage";
import { read } from "./read/stage";
import { reuse } from "./reuse/stage";
import { sound } from "./sound/stage";
import { tidy } from "./tidy/stage";

export const STAGES: readonly Stage[] = [gather, read, cut, tidy, sound, picture, captions, reuse, exporting];
