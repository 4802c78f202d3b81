import "@fontsource-variable/instrument-sans";
import "@fontsource-variable/jetbrains-mono";
import "@fontsource-variable/literata";
import { QueryClientProvider } from "@tanstack/react-query";
import { StrictMode } from "react";
import { createRoot } from "react-dom/client";
import { Route, Switch } from "wouter";
import { queryClient } from "./api/client";
import { Library } from "./app/library/Library";
import "./app/styles.css";
import { Door } from "./app/team/Door";
import { Workspace } from "./app/Workspace";
import { Mishap } from "./ui/Mishap";
import { applyTheme } from "./ui/theme";

applyTheme();
const root = document.getElementById("root");
if (!root) throw new Error("index.html has no root element");
createRoot(root).render(
  <StrictMode>
    <QueryClientProvider client={queryClient}>
      <Mishap>
        <Door>
          <Switch>
            <Route path="/episodes/:id">{({ id }) => <Workspace key={id} episodeId={id} />}</Route>
            <Route>
              <Library />
            </Route>
          </Switch>
        </Door>
      </Mishap>
    </QueryClientProvider>
  </StrictMode>,
);
