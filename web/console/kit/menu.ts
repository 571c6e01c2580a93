// A list of things to do that opens from a control.
export { default as Divider } from "@mui/material/Divider";
export { default as Menu } from "@mui/material/Menu";
export { default as MenuItem } from "@mui/material/MenuItem";
