// Where the browser's side begins: components are registered, then Alpine starts.
import Alpine from "../vendor/alpine-csp.js";
import { listen } from "./controls.js";
import { desk } from "./desk.js";
import { interval } from "./interval.js";
import { listenKeys } from "./keys.js";
import { methods } from "./methods.js";
import { plain } from "./plain.js";
import { rails } from "./rails.js";
import { recipe } from "./recipe.js";
import { slide } from "./slide.js";
import { tray } from "./tray.js";
import { listenValues } from "./values.js";
import { strip } from "./strip/strip.js";

Alpine.data("desk", desk);
Alpine.data("interval", interval);
Alpine.data("methods", methods);
Alpine.data("plain", plain);
Alpine.data("rails", rails);
Alpine.data("recipe", recipe);
Alpine.data("slide", slide);
Alpine.data("strip", strip);
Alpine.data("tray", tray);
listen();
listenKeys();
listenValues();
Alpine.start();
