import { t } from "@lingui/core/macro";
import { forwardRef, useEffect, useEffectEvent, useImperativeHandle, useRef } from "react";

import type { FromAlong, ToAlong } from "./messages";

/** How the frame is told something. */
export interface AlongHandle {
  tell: (message: ToAlong) => void;
}

/** The frame in which a visitor's page is drawn: nothing of the page runs there. */
export const AlongFrame = forwardRef<AlongHandle, { onMessage: (message: FromAlong) => void }>(
  function AlongFrame({ onMessage }, handle) {
    const frame = useRef<HTMLIFrameElement>(null);
    const heard = useEffectEvent(onMessage);
    useEffect(() => {
      const listener = (event: MessageEvent) => {
        if (event.source === frame.current?.contentWindow && event.origin === location.origin)
          heard(event.data as FromAlong);
      };
      addEventListener("message", listener);
      return () => removeEventListener("message", listener);
    }, []);
    useImperativeHandle(handle, () => ({
      tell: (message) => frame.current?.contentWindow?.postMessage(message, location.origin),
    }));
    return <iframe ref={frame} src="/along" title={t`What the visitor sees`} />;
  },
);
