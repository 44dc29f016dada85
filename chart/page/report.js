// The timeline: + and - zoom, 0 shows all of it, arrows and the mouse pan. A link of a missed expectation goes to its time.
'use strict';
const stage = document.getElementById('timeline');
const pictures = [...stage.querySelectorAll('svg')];
const whole = pictures[0].viewBox.baseVal;
const full = { x: 0, y: 0, width: whole.width, height: whole.height };
let seen = { ...full };

function show(x, y, width) {
  const height = width * full.height / full.width;
  seen = {
    x: Math.min(Math.max(x, 0), full.width - width), y: Math.min(Math.max(y, 0), full.height - height), width, height,
  };
  for (const picture of pictures) picture.setAttribute('viewBox', `${seen.x} ${seen.y} ${seen.width} ${seen.height}`);
  stage.dataset.zoom = (full.width / seen.width).toFixed(2);
}

function zoom(factor, atX, atY) {
  const width = Math.min(Math.max(seen.width / factor, full.width / 40), full.width);
  const shareX = (atX - seen.x) / seen.width;
  const shareY = (atY - seen.y) / seen.height;
  show(atX - shareX * width, atY - shareY * width * full.height / full.width, width);
}

function middle() { return [seen.x + seen.width / 2, seen.y + seen.height / 2]; }

function pointed(event) {
  const box = stage.getBoundingClientRect();
  return [seen.x + (event.clientX - box.left) / box.width * seen.width, seen.y + (event.clientY - box.top) / box.height * seen.height];
}

const steps = { ArrowLeft: [-1, 0], ArrowRight: [1, 0], ArrowUp: [0, -1], ArrowDown: [0, 1] };

stage.addEventListener('keydown', (event) => {
  if (event.key === '+' || event.key === '=') zoom(1.5, ...middle());
  else if (event.key === '-') zoom(1 / 1.5, ...middle());
  else if (event.key === '0') show(0, 0, full.width);
  else if (steps[event.key]) show(seen.x + steps[event.key][0] * seen.width / 5, seen.y + steps[event.key][1] * seen.height / 5, seen.width);
  else return;
  event.preventDefault();
});

stage.addEventListener('wheel', (event) => {
  if (!event.ctrlKey && seen.width === full.width && event.deltaY > 0) return; // the page scrolls
  zoom(event.deltaY < 0 ? 1.25 : 1 / 1.25, ...pointed(event));
  event.preventDefault();
}, { passive: false });

let held = null;
stage.addEventListener('pointerdown', (event) => { held = pointed(event); stage.setPointerCapture(event.pointerId); });
stage.addEventListener('pointerup', () => { held = null; });
stage.addEventListener('pointermove', (event) => {
  if (!held) return;
  const [x, y] = pointed(event);
  show(seen.x + held[0] - x, seen.y + held[1] - y, seen.width);
});

for (const link of document.querySelectorAll('a[data-x]')) {
  link.addEventListener('click', (event) => {
    event.preventDefault();
    const width = full.width / 6;
    show(Number(link.dataset.x) - width / 2, full.height - width * full.height / full.width, width);
    stage.focus();
  });
}
addEventListener('beforeprint', () => show(0, 0, full.width));
show(0, 0, full.width);
