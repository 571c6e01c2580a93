import "./palette.css";

import { t } from "@lingui/core/macro";
import { Trans } from "@lingui/react/macro";
import { actWords } from "../keyboard/acts-words";
import { acts, hintOf, type Act } from "../keyboard/acts";
import { Button } from "../kit/button";
import { Dialog, DialogActions, DialogContent, DialogTitle } from "../kit/dialog";

const groups: { group: Act["group"]; title: string }[] = [
  { group: "Line", title: t`Line` },
  { group: "Lane", title: t`Lane` },
  { group: "Writing", title: t`Writing` },
  { group: "Everywhere", title: t`Everywhere` },
];

/** All shortcuts, by where they work. */
export default function HelpSheet({ onClose }: { onClose: () => void }) {
  return (
    <Dialog open onClose={onClose} fullWidth maxWidth="md" aria-labelledby="keys-title">
      <DialogTitle id="keys-title">
        <Trans>Keyboard shortcuts</Trans>
      </DialogTitle>
      {/* More than fits, and nothing in it to turn to: it is scrolled with the keyboard as a whole. */}
      <DialogContent tabIndex={0} role="group" aria-labelledby="keys-title">
        <div className="sheet-keys">
          {groups.map(({ group, title }) => (
            <section key={group} aria-label={title}>
              <h3>{title}</h3>
              <dl>
                {acts
                  .filter((a) => a.group === group && a.hint)
                  .map((a) => (
                    <div key={a.id}>
                      <dt>{actWords(a.id)}</dt>
                      <dd>
                        <span className="key">{hintOf(a.id)}</span>
                      </dd>
                    </div>
                  ))}
              </dl>
            </section>
          ))}
        </div>
        <p className="nothing">
          <Trans>
            Shortcuts use the same physical keys on every keyboard layout. Lane shortcuts act on the selected
            lane.
          </Trans>
        </p>
      </DialogContent>
      <DialogActions>
        <Button variant="outlined" onClick={onClose} autoFocus>
          <Trans>Close</Trans>
        </Button>
      </DialogActions>
    </Dialog>
  );
}
