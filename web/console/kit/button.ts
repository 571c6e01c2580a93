// Buttons. A filled one is the next thing to do; a screen has one of them.
export { default as Button } from "@mui/material/Button";
export { default as IconButton } from "@mui/material/IconButton";
