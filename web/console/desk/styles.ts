// How the Desk looks, story by story; what stands later wins.
import "./line.css";
import "./lanes.css";
import "./script.css";
import "./composer.css";
import "./offers.css";
import "./fields.css";
