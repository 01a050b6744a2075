// The scale's own page: what it shows, and the daily check.
import "../../js/scale.js";
import "./scale-check.js";
