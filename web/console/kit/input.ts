// A field without a frame of its own, for what frames it.
export { default as InputBase } from "@mui/material/InputBase";
