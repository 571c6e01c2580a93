// How far something has come.
export { default as LinearProgress } from "@mui/material/LinearProgress";
