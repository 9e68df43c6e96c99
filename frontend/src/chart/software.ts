let known: boolean | null = null;

/** Whether this browser draws without a graphics card; smoothing edges then costs more than it shows. */
export function drawnInSoftware(): boolean {
  if (known === null) {
    const context = document.createElement('canvas').getContext('webgl2');
    const info = context?.getExtension('WEBGL_debug_renderer_info');
    const name = context && info ? String(context.getParameter(info.UNMASKED_RENDERER_WEBGL)) : '';
    known = /swiftshader|llvmpipe|software/i.test(name);
  }
  return known;
}
