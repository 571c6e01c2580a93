import "./palette.css";

import Button from "@mui/material/Button";
import Dialog from "@mui/material/Dialog";
import DialogActions from "@mui/material/DialogActions";
import DialogContent from "@mui/material/DialogContent";
import DialogTitle from "@mui/material/DialogTitle";

import { acts, hintOf, type Act } from "../keyboard/acts";

const groups: Act["group"][] = ["Line", "Lane", "Writing", "Everywhere"];

/** All keys, by where they work. */
export default function HelpSheet({ onClose }: { onClose: () => void }) {
  return (
    <Dialog open onClose={onClose} fullWidth maxWidth="md" aria-labelledby="keys-title">
      <DialogTitle id="keys-title">Keys</DialogTitle>
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
          Keys are places on the keyboard, the same on every layout. Keys of the lane work in the one in use.
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
