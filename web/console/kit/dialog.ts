// What lies over the page until it is answered or left.
export { default as Dialog } from "@mui/material/Dialog";
export { default as DialogActions } from "@mui/material/DialogActions";
export { default as DialogContent } from "@mui/material/DialogContent";
export { default as DialogTitle } from "@mui/material/DialogTitle";
