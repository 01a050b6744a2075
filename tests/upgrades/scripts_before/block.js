// The block: the scale, what is chosen, what is taken and sent, and what the other tablet did.
import "./scale.js";
import "./queue.js";
import "./bench.js";
import "./strip.js";
import "./hands.js";
import "./auto.js";
import "./sync.js";
import "./clock.js";
import "./steps.js";
