/** Flags that make Debian's Chromium run on a machine without a screen, a graphics card or an open network. */
export const CHROMIUM_FLAGS = [
  '--no-sandbox',
  '--disable-quic',
  '--no-first-run',
  '--disable-background-networking',
  '--disable-component-update',
  '--disable-sync',
  '--use-gl=angle',
  '--use-angle=swiftshader',
  '--enable-unsafe-swiftshader',
  // As everywhere without a graphics card: pages are put together by the processor, only WebGL goes through SwiftShader.
  '--disable-gpu-compositing',
  '--autoplay-policy=no-user-gesture-required',
]
export const CHROMIUM = process.env.RUBATO_CHROMIUM ?? '/usr/bin/chromium'
