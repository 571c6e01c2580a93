import { useEffect } from "react";
import { useNavigate } from "react-router";

import { useMe } from "../desk/provider";
import { pushStillHere } from "./push";

/** Goes where a push message that was clicked on leads, and keeps the server told of this browser. */
export default function Pushed() {
  const me = useMe();
  const navigate = useNavigate();
  useEffect(() => {
    // What fails here is tried again when the console is opened next.
    pushStillHere(me.id).catch(() => undefined);
  }, [me.id]);
  useEffect(() => {
    const worker = "serviceWorker" in navigator ? navigator.serviceWorker : undefined;
    const heard = (event: MessageEvent) => {
      const path = (event.data as { open?: unknown } | null)?.open;
      if (typeof path === "string") void navigate(path);
    };
    worker?.addEventListener("message", heard);
    worker?.startMessages();
    return () => worker?.removeEventListener("message", heard);
  }, [navigate]);
  return null;
}
