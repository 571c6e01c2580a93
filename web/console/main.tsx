import "./kit/nonce";

// Only now, since what is loaded here writes styles as soon as it is there.
void import("./start");
