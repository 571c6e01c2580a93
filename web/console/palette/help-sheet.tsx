import "./palette.css";

import Button from "@mui/material/Button";
import Dialog from "@mui/material/Dialog";
import DialogActions from "@mui/material/DialogActions";
import DialogContent from "@mui/material/DialogContent";
import DialogTitle from "@mui/material/DialogTitle";

import { acts, hintOf, type Act } from "../keyboard/acts";

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
