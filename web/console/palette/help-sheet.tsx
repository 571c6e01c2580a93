import "./palette.css";

import { acts, hintOf, type Act } from "../keyboard/acts";
import { Button } from "../kit/button";
import { Dialog, DialogActions, DialogContent, DialogTitle } from "../kit/dialog";

const groups: Act["group"][] = ["Line", "Lane", "Writing", "Everywhere"];

/** All shortcuts, by where they work. */
export default function HelpSheet({ onClose }: { onClose: () => void }) {
  return (
    <Dialog open onClose={onClose} fullWidth maxWidth="md" aria-labelledby="keys-title">
      <DialogTitle id="keys-title">Keyboard shortcuts</DialogTitle>
      <DialogContent>
        <div className="sheet-keys">
          {groups.map((group) => (
            <section key={group} aria-label={group}>
              <h3>{group}</h3>
              <dl>
                {acts
                  .filter((a) => a.group === group && a.hint)
                  .map((a) => (
                    <div key={a.id}>
                      <dt>{a.words}</dt>
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
          Shortcuts use the same physical keys on every keyboard layout. Lane shortcuts act on the selected
          lane.
        </p>
      </DialogContent>
      <DialogActions>
        <Button variant="outlined" onClick={onClose} autoFocus>
          Close
        </Button>
      </DialogActions>
    </Dialog>
  );
}
