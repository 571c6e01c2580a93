import Button from "@mui/material/Button";
import Dialog from "@mui/material/Dialog";
import DialogActions from "@mui/material/DialogActions";
import DialogContent from "@mui/material/DialogContent";
import DialogTitle from "@mui/material/DialogTitle";

import { useChat, useChats, useDeskStore } from "./provider";

/** Asks before somebody takes more chats than they should hold. */
export default function TooMany() {
  const store = useDeskStore();
  const tooMany = useChats((s) => s.tooMany);
  const chat = useChat(tooMany?.chatId ?? "");
  if (!tooMany) return null;
  const name = chat?.name || "this visitor";
  return (
    <Dialog open onClose={() => store.acts.leaveIt()} aria-labelledby="too-many">
      <DialogTitle id="too-many">Take one more than your limit?</DialogTitle>
      <DialogContent>
        {chat?.departmentName ? `Your limit in ${chat.departmentName} is` : "Your limit is"}{" "}
        {tooMany.capacity === 1 ? "1 chat" : `${tooMany.capacity} chats`} at once, and you hold {tooMany.load}
        . Take <bdi>{name}</bdi> anyway?
      </DialogContent>
      <DialogActions>
        <Button onClick={() => store.acts.leaveIt()}>Leave it to a colleague</Button>
        <Button variant="contained" autoFocus onClick={() => void store.acts.take(tooMany.chatId, true)}>
          Take it anyway
        </Button>
      </DialogActions>
    </Dialog>
  );
}
