import { facts } from "../keys/act-facts.ts";

/** Acts of the tools that draw shapes, the same wherever shapes are drawn. */
export const SHAPE_ACTS = facts({
  "shape-new-brush": ["Light", "Brush something new", "shift+p"],
  "shape-lay-down": ["Light", "Lay the tool down", "escape"],
  "shapes-all": ["Light", "Show every shape", "space", "held"],
  "brush-wider": ["Light", "Wider brush", "w"],
  "brush-narrower": ["Light", "Narrower brush", "q"],
  "lay-new": ["Light", "Next shape: something new", ""],
  "lay-join": ["Light", "Next shape joins the one in hand", "shift+j"],
  "lay-subtract": ["Light", "Next shape is taken off the one in hand", "shift+k"],
  "lay-intersect": ["Light", "Next shape bounds the one in hand", "shift+u"],
  "brush-erase": ["Light", "Lay down or take away", "r"],
});
