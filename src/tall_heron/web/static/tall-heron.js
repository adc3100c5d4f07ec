// Everything that the pages do, made known to Alpine when it starts.
import { card } from "./card.js";
import { cases } from "./cases.js";
import { curves } from "./curve.js";
import { fields } from "./fields.js";
import { live } from "./live.js";
import { wholePage } from "./page.js";
import { prove } from "./prove.js";
import { replay } from "./replay.js";
import { route } from "./route.js";
import { shelf } from "./shelf.js";
import { cutOff } from "./simulator.js";
import { shop } from "./shop.js";
import { sizing } from "./sizing.js";

document.addEventListener("alpine:initialized", () => {
  document.body.dataset.alive = "yes";
});
document.addEventListener("alpine:init", () => {
  for (const part of [fields, card, cases, curves, cutOff, live, prove, replay, route, shelf, shop, sizing, wholePage]) part(window.Alpine);
});
