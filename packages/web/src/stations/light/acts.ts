import { facts } from "../../keys/act-facts.ts";

export const LIGHT_ACTS = facts({
  less: ["Light", "A little darker", "["],
  more: ["Light", "A little lighter", "]"],
  "some-less": ["Light", "Some darker: a third", "{"],
  "some-more": ["Light", "Some lighter: a third", "}"],
  "much-less": ["Light", "Much darker: two thirds", "alt+["],
  "much-more": ["Light", "Much lighter: two thirds", "alt+]"],
  "burn-map": ["Light", "Burn map", "j", "held"],
  "moves-strip": ["Light", "All moves in a test strip", ""],
  "halve-all": ["Light", "Halve all moves", "shift+h"],
  "zone-by-zone": ["Light", "Zone by zone inside the shape", "z"],
  "zone-lighter": ["Light", "The next lighter zone", "up"],
  "zone-darker": ["Light", "The next darker zone", "down"],
  "zone-lift": ["Light", "Lift this zone a little", "right"],
  "zone-burn": ["Light", "Burn this zone a little", "left"],
  "zone-done": ["Light", "Leave the zones", "enter escape"],
  halve: ["Light", "Halve the move", "h"],
  opposite: ["Light", "Opposite of the move", "o"],
  invert: ["Light", "Inside or outside", "i"],
  "duplicate-move": ["Light", "Duplicate the move", "shift+d"],
  "remove-move": ["Light", "Take the move away", "delete backspace"],
});
