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
