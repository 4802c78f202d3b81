import { lazy } from "react";
import type { Stage } from "../../page/stage";
import { actions } from "./actions";

export const picture: Stage = {
  id: "picture",
  name: "Picture",
  needs: "edit",
  Bench: lazy(() => import("./PictureBench")),
  Overlay: lazy(() => import("./Looking")),
  lanes: { below: "faint" },
  actions,
};
