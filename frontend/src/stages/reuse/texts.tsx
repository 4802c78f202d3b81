/** The panels in which the texts of an edition are edited. */
import { lazy } from "react";
import type { Scene } from "../../page/scene";

const Writing = lazy(() => import("./Writing").then((found) => ({ default: found.Writing })));

export const Article = ({ scene }: { scene: Scene }) => <Writing scene={scene} kind="article" />;
export const Summary = ({ scene }: { scene: Scene }) => <Writing scene={scene} kind="summary" />;
export const Notes = ({ scene }: { scene: Scene }) => <Writing scene={scene} kind="notes" />;
