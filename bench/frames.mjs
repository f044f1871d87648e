/** Frame times of a page while something goes on in it, in milliseconds. @param act a function's text, run in the page */
export const framesDuring = (page, act) =>
  page.evaluate(`(async () => {
    const times = [];
    let last = performance.now();
    let isOver = false;
    const step = (now) => { times.push(now - last); last = now; if (!isOver) requestAnimationFrame(step); };
    requestAnimationFrame(step);
    await (${act})();
    isOver = true;
    return times.slice(2);
  })()`);

/** Frame times of a map that is dragged about for four seconds. */
export async function framesOfPan(page, canvas) {
  const at = await canvas.boundingBox();
  const [x, y] = [at.x + at.width / 2, at.y + at.height / 2];
  await page.mouse.move(x, y);
  await page.mouse.down();
  const measured = framesDuring(page, `async () => new Promise((done) => setTimeout(done, 4000))`);
  for (let i = 0; i < 120; i++) await page.mouse.move(x + 120 * Math.sin(i / 9), y + 80 * Math.cos(i / 9));
  await page.mouse.up();
  return measured;
}
