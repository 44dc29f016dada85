// The timeline: + and - zoom, 0 shows all of it, arrows and the mouse pan. A link of a missed expectation goes to its time.
// From a zoom of 5 on a wider picture of the same takes its place, with labels for what it has room for.
'use strict';
const FINE_FROM = 5;
const MOST = 40;
const stage = document.getElementById('timeline');
const left = Number(stage.dataset.left);
const right = Number(stage.dataset.right);
const pictures = { coarse: [...stage.querySelectorAll('.coarse svg')], fine: [...stage.querySelectorAll('.fine svg')] };
const widths = {};
for (const level of ['coarse', 'fine']) widths[level] = pictures[level].length ? pictures[level][0].viewBox.baseVal.width : 0;
const height = pictures.coarse[0].viewBox.baseVal.height;
for (const picture of pictures.fine) { // as large on the page as the other
  picture.setAttribute('width', widths.coarse);
  picture.setAttribute('height', height);
}

// The lanes' names stay in sight: the left edge of the picture, over what is zoomed.
const HEAD = 70; // px: above are the heading and its line,
const FOOT = 44; // and below the times
const names = pictures.coarse.map((picture) => {
  const edge = picture.cloneNode(true);
  for (const text of edge.querySelectorAll('text')) {
    const y = Number(text.getAttribute('y'));
    if (y < HEAD || y > height - FOOT) text.remove();
  }
  edge.setAttribute('class', 'names');
  edge.setAttribute('aria-hidden', 'true');
  picture.parentNode.parentNode.append(Object.assign(document.createElement('div'), { className: picture.parentNode.className }));
  picture.parentNode.parentNode.lastChild.classList.replace('coarse', 'edge');
  picture.parentNode.parentNode.lastChild.append(edge);
  return edge;
});

let seen = { zoom: 1, level: 'coarse', x: 0, y: 0, width: widths.coarse, height };

function timeAt(x) { return (x - left) / (widths[seen.level] - left - right); }

// The moment `time`, a share of it all, stands at a share of the width; and `down`, a share of the height, likewise.
function show(zoom, time, across, down, downAcross) {
  const level = zoom >= FINE_FROM && widths.fine ? 'fine' : 'coarse';
  const width = widths[level] / zoom;
  const high = width * height / widths.coarse;
  const x = left + time * (widths[level] - left - right) - across * width;
  const y = down * height - downAcross * high;
  seen = {
    zoom, level, width, height: high, x: Math.min(Math.max(x, 0), widths[level] - width), y: Math.max(Math.min(y, height - high), 0),
  };
  for (const picture of pictures[level]) picture.setAttribute('viewBox', `${seen.x} ${seen.y} ${width} ${high}`);
  for (const edge of names) {
    edge.setAttribute('viewBox', `0 ${seen.y} ${left} ${high}`);
    edge.style.width = `${100 * left / width}%`;
    edge.style.display = zoom > 1 ? 'block' : 'none';
  }
  stage.dataset.level = level;
  stage.dataset.zoom = zoom.toFixed(2);
}

function zoomBy(factor, across, downAcross) {
  const zoom = Math.min(Math.max(seen.zoom * factor, 1), MOST);
  show(zoom, timeAt(seen.x + across * seen.width), across, (seen.y + downAcross * seen.height) / height, downAcross);
}

function panBy(across, downAcross) {
  show(seen.zoom, timeAt(seen.x + across * seen.width), 0, (seen.y + downAcross * seen.height) / height, 0);
}

function showAll() { show(1, 0.5, 0.5, 0, 0); }

function pointed(event) {
  const box = stage.getBoundingClientRect();
  return [(event.clientX - box.left) / box.width, (event.clientY - box.top) / box.height];
}

const steps = { ArrowLeft: [-0.2, 0], ArrowRight: [0.2, 0], ArrowUp: [0, -0.2], ArrowDown: [0, 0.2] };

// False where the key means nothing.
function act(key) {
  if (key === '+' || key === '=') zoomBy(1.5, 0.5, 0.5);
  else if (key === '-') zoomBy(1 / 1.5, 0.5, 0.5);
  else if (key === '0') showAll();
  else if (steps[key]) panBy(...steps[key]);
  else return false;
  return true;
}

stage.addEventListener('keydown', (event) => { if (act(event.key)) event.preventDefault(); });

for (const button of document.querySelectorAll('button[data-key]')) button.addEventListener('click', () => act(button.dataset.key));

stage.addEventListener('wheel', (event) => {
  if (!event.ctrlKey && seen.zoom === 1 && event.deltaY > 0) return; // the page scrolls
  zoomBy(event.deltaY < 0 ? 1.25 : 1 / 1.25, ...pointed(event));
  event.preventDefault();
}, { passive: false });

let held = null;
stage.addEventListener('pointerdown', (event) => { held = pointed(event); stage.setPointerCapture(event.pointerId); });
stage.addEventListener('pointerup', () => { held = null; });
stage.addEventListener('pointermove', (event) => {
  if (!held) return;
  const now = pointed(event);
  panBy(held[0] - now[0], held[1] - now[1]);
  held = now;
});

for (const link of document.querySelectorAll('a[data-x]')) {
  link.addEventListener('click', (event) => {
    event.preventDefault();
    show(6, (Number(link.dataset.x) - left) / (widths.coarse - left - right), 0.5, 1, 1);
    stage.focus();
  });
}
addEventListener('beforeprint', showAll);
showAll();
