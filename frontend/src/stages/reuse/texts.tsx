/** The panels about texts: those of an edition, and those of which films are made. */
import { lazy } from "react";
import type { Scene } from "../../page/scene";

const Writing = lazy(() => import("./Writing").then((found) => ({ default: found.Writing })));

const Making = lazy(() => import("./FilmOfText").then((found) => ({ default: found.FilmOfText })));

export const FilmOfText = ({ scene }: { scene: Scene }) => <Making scene={scene} />;
export const Article = ({ scene }: { scene: Scene }) => <Writing scene={scene} kind="article" />;
export const Summary = ({ scene }: { scene: Scene }) => <Writing scene={scene} kind="summary" />;
export const Notes = ({ scene }: { scene: Scene }) => <Writing scene={scene} kind="notes" />;
