// A word about the page as a whole.
export { default as Alert } from "@mui/material/Alert";
