import "./panel.css";

import { createRoot } from "react-dom/client";

import { Panel } from "./panel";
import { PanelStore } from "./store";

const key = decodeURIComponent(location.pathname.split("/")[2] ?? "");
const store = new PanelStore(key);
const root = document.getElementById("panel");
if (root) createRoot(root).render(<Panel store={store} />);
void store.begin();
