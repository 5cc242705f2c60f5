// Two clicks on a photo name the reeds between which strings are measured; the fields say where, and can be typed without a mouse.
const box = document.querySelector('[data-measure]');
const form = /** @type {HTMLFormElement} */ (document.getElementById('measure'));
if (box && form) {
  const picture = box.querySelector('img');
  const said = document.getElementById('measure-said');
  const marks = [];
  let next = 0;
  const put = (name, value) => { /** @type {HTMLInputElement} */ (form.querySelector(`[name=${name}]`)).value = String(Math.round(value)); };
  box.addEventListener('click', /** @param {PointerEvent} e */ e => {
    const at = picture.getBoundingClientRect();
    const [x, y] = [(e.clientX - at.left) / at.width, (e.clientY - at.top) / at.height];
    if (x < 0 || y < 0 || x > 1 || y > 1) return;
    if (next === 0) marks.splice(0).forEach(m => m.remove());
    put(next === 0 ? 'x1' : 'x2', x * Number(picture.getAttribute('width')));
    put(next === 0 ? 'y1' : 'y2', y * Number(picture.getAttribute('height')));
    const mark = document.createElement('i');
    mark.className = 'reed-mark';
    box.append(mark);
    mark.attributeStyleMap?.set('left', CSS.percent(x * 100));
    mark.attributeStyleMap?.set('top', CSS.percent(y * 100));
    marks.push(mark);
    next = 1 - next;
    said.textContent = next === 1 ? 'Now on the other reed.' : 'Measuring …';
    if (next === 0) form.requestSubmit();
  });
}
