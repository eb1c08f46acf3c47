// Tells the application, when all pictures stand, how large each is shown and when its bytes were
// there. It runs without any rights: it can read nothing but this page.
performance.setResourceTimingBufferSize(2000)
addEventListener('load', async () => {
  const images = [...document.images]
  await Promise.allSettled(images.map((image) => image.decode()))
  const pictures = images.map((image) => {
    const [entry] = performance.getEntriesByName(image.currentSrc)
    const stood_ms = entry ? entry.responseEnd : null
    return { shown_css_px: image.clientWidth, stood_ms }
  })
  const told = { window_css_px: innerWidth, density: devicePixelRatio, pictures }
  parent.postMessage({ standing: told }, '*')
})
