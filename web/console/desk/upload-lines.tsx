import { t } from "@lingui/core/macro";
import { Trans } from "@lingui/react/macro";

import { Icons } from "../icons";
import { LinearProgress } from "../kit/progress";
import type { Upload } from "./store/uploads";

interface Props {
  uploads: Upload[];
  onAgain: ((clientId: string) => void) | undefined;
  onCancel: ((clientId: string) => void) | undefined;
}

/** Files of mine that are on their way, or did not get there. */
export default function UploadLines({ uploads, onAgain, onCancel }: Props) {
  return (
    <>
      {uploads.map((u) => (
        <div className="say team unsent" key={u.clientId}>
          <div className="who">
            <b>
              <Trans>You</Trans>
            </b>
          </div>
          <div className="words upload">
            <span className="file-line">
              <Icons.File /> <bdi className="cut">{u.name}</bdi>
            </span>
            {u.trouble ? (
              <span className="mark wrong" role="alert">
                <Trans>Not sent. {u.trouble}</Trans>{" "}
                <button className="link" onClick={() => onAgain?.(u.clientId)}>
                  <Trans>Try again</Trans>
                </button>
              </span>
            ) : (
              <LinearProgress variant="determinate" value={u.share * 100} aria-label={t`Sending ${u.name}`} />
            )}
            <button className="link" onClick={() => onCancel?.(u.clientId)}>
              {u.trouble ? t`Discard` : t`Cancel`}
            </button>
          </div>
        </div>
      ))}
    </>
  );
}
