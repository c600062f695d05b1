// Draws a flat room of a Topion bundle on a canvas, in plain JavaScript: a start for those who put
// rooms into a game of their own.  What a bundle holds is told in docs/FORMATS.md.
"use strict";

const SEATS = [[0.5, 0], [0, -0.5], [-0.5, 0], [0, 0.5]]; // of things, by quarter turns

// Rows like `12*0 3*5 7` as arrays of numbers.
function cellsOf(rows) {
  return rows.map((row) => {
    const cells = [];
    for (const run of row.split(" ").filter(Boolean)) {
      const star = run.indexOf("*");
      const count = star < 0 ? 1 : Number(run.slice(0, star));
      const value = Number(run.slice(star + 1));
      for (let n = 0; n < count; n += 1) cells.push(value);
    }
    return cells;
  });
}

function roomNamed(bundle, name) {
  const found = bundle.rooms.find((room) => room.room.name === name);
  if (!found) throw new Error(`there is no room ${name}`);
  return found;
}

// The things of a layer that show, placed or sown, those farther back first.
function thingsOf(layer) {
  const things = layer.sown || layer.things || [];
  return [...things].sort((a, b) => a.y - b.y || a.x - b.x);
}

// Where a tile lies in its sheet: {tileset, x, y, wide, high, left, top, turn, mirrored}, in px.
function tilePlace(bundle, number) {
  const [name, slot, turn, mirrored] = bundle.tiles[number - 1];
  const tileset = bundle.tilesets.find((known) => known.name === name);
  const { tile: [high, wide], margin = 0, spacing = 0, rects = [] } = tileset.cut;
  const known = (tileset.slots || {})[slot];
  const [row, column] = known ? known.at : slot.split(",").map(Number);
  const place = { tileset: name, turn, mirrored, tile: [high, wide] };
  if (rects.length) { // stands in the middle of its tile, on its ground
    const [y, x, h, w] = rects[column];
    return { ...place, x, y, wide: w, high: h, left: Math.floor((wide - w) / 2), top: high - h };
  }
  const y = margin + row * (high + spacing);
  const x = margin + column * (wide + spacing);
  return { ...place, x, y, wide, high, left: 0, top: 0 };
}

// All that is drawn of a flat room, in its order: tiles and things with their places in px.
function drawingOf(bundle, name) {
  const { room, layers } = roomNamed(bundle, name);
  if (room.size.length !== 2) throw new Error(`${name} is a voxel room; this draws flat ones`);
  const px = room.cell_px || 16;
  const [height, width] = room.size;
  const prefabs = new Map(bundle.prefabs.map((prefab) => [prefab.name, prefab]));
  const steps = [];
  for (const layer of layers) {
    const { kind, shown = true, opacity = 1, offset: [down, right] = [0, 0] } = layer.layer;
    if (!shown) continue;
    for (const plane of kind === "tiles" ? ["tile", "over"] : []) { // `over` are inlays
      cellsOf(layer[plane] || []).forEach((row, y) => row.forEach((number, x) => {
        if (number) {
          const place = tilePlace(bundle, number);
          steps.push({ ...place, opacity, toX: (x + right) * px, toY: (y + down) * px, px });
        }
      }));
    }
    for (const thing of kind === "things" || kind === "field" ? thingsOf(layer) : []) {
      const { turn = 0, scale = 1, mirrored = false } = thing;
      const [seatY, seatX] = SEATS[((Math.round(turn / 90) % 4) + 4) % 4];
      const prefab = prefabs.get(thing.prefab);
      steps.push({
        prefab: thing.prefab, opacity, turn, scale, mirrored,
        anchor: [prefab.anchor_px[0] - (prefab.below_px || 0), prefab.anchor_px[1]],
        toX: (thing.x + 0.5 + seatX + right) * px, toY: (thing.y + 0.5 + seatY + down) * px,
      });
    }
  }
  return { width: width * px, height: height * px, backdrop: room.backdrop || "#e9e2d2", steps };
}

// --- in a page -----------------------------------------------------------------------------------

function pictureOf(base64) {
  return new Promise((resolve, reject) => {
    const image = new Image();
    image.onload = () => resolve(image);
    image.onerror = () => reject(new Error("a picture of the bundle cannot be read"));
    image.src = `data:image/png;base64,${base64}`;
  });
}

async function picturesOf(items, field) {
  const pairs = items.map(async (item) => [item.name, await pictureOf(item[field])]);
  return new Map(await Promise.all(pairs));
}

async function drawRoom(bundle, name, canvas) {
  const drawing = drawingOf(bundle, name);
  const sheets = await picturesOf(bundle.tilesets, "sheet");
  const prefabs = await picturesOf(bundle.prefabs, "picture");
  canvas.width = drawing.width;
  canvas.height = drawing.height;
  const context = canvas.getContext("2d");
  context.imageSmoothingEnabled = false;
  context.fillStyle = drawing.backdrop;
  context.fillRect(0, 0, canvas.width, canvas.height);
  for (const step of drawing.steps) {
    context.save();
    context.globalAlpha = step.opacity;
    if (step.prefab) drawThing(context, prefabs.get(step.prefab), step);
    else drawTile(context, sheets.get(step.tileset), step);
    context.restore();
  }
}

function drawTile(context, sheet, step) {
  const [high, wide] = step.tile;
  context.translate(Math.round(step.toX) + step.px / 2, Math.round(step.toY) + step.px / 2);
  context.scale(step.mirrored ? -step.px / wide : step.px / wide, step.px / high);
  context.rotate((step.turn * Math.PI) / 2);
  context.drawImage(sheet, step.x, step.y, step.wide, step.high,
    step.left - wide / 2, step.top - high / 2, step.wide, step.high);
}

function drawThing(context, picture, step) {
  const [ay, ax] = step.anchor;
  const left = step.mirrored ? picture.width - ax : ax;
  const wide = Math.max(1, Math.round(picture.width * step.scale));
  const high = Math.max(1, Math.round(picture.height * step.scale));
  const shiftX = (left * wide) / picture.width;
  const shiftY = (ay * high) / picture.height;
  if (step.turn) {
    context.translate(step.toX, step.toY);
    context.rotate((step.turn * Math.PI) / 180);
  } else {
    context.translate(Math.round(step.toX - shiftX) + shiftX,
      Math.round(step.toY - shiftY) + shiftY);
  }
  context.translate(-shiftX, -shiftY);
  if (step.mirrored) {
    context.translate(wide, 0);
    context.scale(-1, 1);
  }
  context.drawImage(picture, 0, 0, wide, high);
}

if (typeof module !== "undefined") module.exports = { cellsOf, drawingOf, thingsOf, tilePlace };
