// A framed field with a label. Forms use TextInput and its like, which are made of it.
export { default as InputAdornment } from "@mui/material/InputAdornment";
export { default as TextField } from "@mui/material/TextField";
