/** What the driver turns off itself, since the last list counts; and the pages behind the address bar, which each new window made ready at the cost of half a page. */
const NOT_NEEDED = [
  'AvoidUnnecessaryBeforeUnloadCheckSync',
  'DestroyProfileOnBrowserClose',
  'HttpsUpgrades',
  'HttpsFirstBalancedModeAutoEnable',
  'LensOverlay',
  'MediaRouter',
  'PaintHolding',
  'ThirdPartyStoragePartitioning',
  'AvoidCorsURLLoaderRestartOnRedirect',
  'OptimizationHints',
  'NetworkTimeServiceQuerying',
  'AimEnabled',
  'PreconnectToSearch',
  'WebUIOmniboxPopup',
  'WebUIOmniboxAimPopup',
]

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
  `--disable-features=${NOT_NEEDED.join(',')}`,
  '--autoplay-policy=no-user-gesture-required',
]
export const CHROMIUM = process.env.RUBATO_CHROMIUM ?? '/usr/bin/chromium'
/** The same without its windows. */
export const HEADLESS_CHROMIUM = '/usr/bin/chromium-headless-shell'
