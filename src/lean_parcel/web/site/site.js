// Tells the application, when all pictures stand, how large each is shown and when its bytes were
// there. It runs without any rights: it can read nothing but this page.
performance.setResourceTimingBufferSize(2000)

// A frame that is zoomed learns its size and density a little late, and would load pictures twice.
// So there the pictures wait in a template until both are as they should be, or for a while.
const { window: wide, density } = document.documentElement.dataset
const isAsItShould = () =>
  innerWidth === Number(wide) && Math.abs(devicePixelRatio - Number(density)) < 0.01
const until = (condition, longest_ms) =>
  new Promise((resolve) => {
    const look = () =>
      condition() || performance.now() > longest_ms ? resolve() : requestAnimationFrame(look)
    look()
  })

// A lazy picture far below is not asked for before somebody scrolls there: it is not waited for.
const isComing = (image) => image.loading !== 'lazy' || image.currentSrc !== ''
const soon = () => new Promise((resolve) => setTimeout(resolve, 300))

const measure = async () => {
  const began = performance.now()
  const images = [...document.images]
  await soon()
  await Promise.allSettled(images.filter(isComing).map((image) => image.decode()))
  const pictures = images.map((image) => {
    const [entry] = performance.getEntriesByName(image.currentSrc)
    return { shown_css_px: image.clientWidth, stood_ms: entry ? entry.responseEnd - began : null }
  })
  const told = { window_css_px: innerWidth, density: devicePixelRatio, pictures }
  parent.postMessage({ standing: told }, '*')
}

const template = document.querySelector('template')
if (template) {
  void until(isAsItShould, 2000).then(() => {
    template.replaceWith(template.content)
    return measure()
  })
} else void measure()
