import { lazy } from "react";
import type { Stage } from "../../page/stage";

export const exporting: Stage = { id: "export", name: "Export", Bench: lazy(() => import("./ExportBench")) };
