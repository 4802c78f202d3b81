/** Whoever comes: signed in, they are let through; else they sign in, take up an invitation, or come as a guest. */
import type { ReactNode } from "react";
import { useLocation } from "wouter";
import { useMe } from "../../api/me";
import { Trouble } from "../../ui/controls";
import { Enter, Guest } from "./Guest";
import { Join } from "./Join";
import { SignIn } from "./SignIn";

export function Door({ children }: { children: ReactNode }) {
  const me = useMe();
  const [path] = useLocation();
  if (me.isPending) return null;
  if (me.isError) return <Trouble>{me.error.message}</Trouble>;
  const { data } = me;
  if (path === "/join" && data.team) return <Join me={data} />;
  if (path === "/guest" && data.team && !data.signed_in) return <Enter />;
  if (data.edition) return <Guest me={data} />;
  return data.signed_in ? children : <SignIn />;
}
