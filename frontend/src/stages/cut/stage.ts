import { lazy } from "react";
import type { Stage } from "../../page/stage";

export const cut: Stage = { id: "cut", name: "Cut", begins: () => true, Bench: lazy(() => import("./CutBench")), lanes: { above: "faint" } };
