import {
  bareTolerance,
  channels,
  fieldChoices,
  filters,
  invert,
  multiply,
  overhang,
  rowKnots,
  rowMatrix,
  scaling,
  type Analysis,
  type Mat3,
  type RowPlacement,
} from '@lurn/core';
import type { Picture } from './frame-source';
import type { OutputName } from './stage-messages';

interface Size {
  width: number;
  height: number;
}

/** A part of the canvas that shows one picture, in device pixels from the top left. */
export interface Pane {
  x: number;
  y: number;
  width: number;
  height: number;
  /** Clip (output) pixel → device pixel within the canvas. */
  scaleX: number;
  scaleY: number;
  shiftX: number;
  shiftY: number;
  /** Where a source pixel of the clip is shown; identity for the source itself. */
  outputFromFrame: Mat3;
  /** Where its rows were read one after another. */
  byRows: RowPlacement | null;
  /** The size of its picture, in its own pixels. */
  picture: Size;
  /** What bare edges show: nothing, black, a hatching, or squares that stand for what is not to be seen. */
  beyond: 'nothing' | 'black' | 'hatching' | 'squares';
  /** The picture that was made of an output and is shown as it is; null where the frame is. */
  made: OutputName | null;
  /** What is laid against it, so that what is alike is grey; null where it is shown as it is. */
  against: Pick<Pane, 'outputFromFrame' | 'byRows' | 'made'> | null;
  /** Shown as a tracker sees it. */
  analysis: Analysis | null;
}

// The frame's corners are placed by the matrix, or both ends of several rows by one each; the rasteriser does the rest,
// perspective too. Working each pixel back by the matrix took three times as long in software.
const vertex = `#version 300 es
uniform mat3 deviceFromRow[${rowKnots}];
uniform int rows;
out vec2 at;
void main() {
  int row = gl_VertexID >> 1;
  at = vec2(float(gl_VertexID & 1), float(row) / float(rows - 1));
  vec3 p = deviceFromRow[row] * vec3(at, 1.0);
  gl_Position = vec4(p.xy, 0.0, p.z);
}`;

const hatching = `#version 300 es
precision highp float;
out vec4 colour;
void main() {
  float stripe = step(0.5, fract((gl_FragCoord.x - gl_FragCoord.y) / 14.0));
  colour = vec4(mix(vec3(0.13, 0.07, 0.07), vec3(0.42, 0.16, 0.12), stripe), 1.0);
}`;

const squared = `#version 300 es
precision highp float;
out vec4 colour;
void main() {
  vec2 square = floor(gl_FragCoord.xy / 10.0);
  colour = vec4(vec3(mod(square.x + square.y, 2.0) < 1.0 ? 0.62 : 0.78), 1.0);
}`;

const fragment = `#version 300 es
precision highp float;
uniform sampler2D yPlane;
uniform sampler2D uPlane;
uniform sampler2D vPlane;
in vec2 at;
uniform float inverted;
out vec4 colour;
vec3 rgbAt(vec2 at) {
  // BT.709, limited range.
  float y = 1.1644 * (texture(yPlane, at).r - 0.0627);
  float u = texture(uPlane, at).r - 0.502;
  float v = texture(vPlane, at).r - 0.502;
  return vec3(y + 1.7927 * v, y - 0.2132 * u - 0.5329 * v, y + 2.1124 * u);
}
#ifdef ANALYSED
// Channel, filter and fields as the core numbers them.
uniform ivec3 analysis;
uniform vec2 clipSize;
float channelAt(vec2 at) {
  if (analysis.x == 0) return texture(yPlane, at).r;
  vec3 c = clamp(rgbAt(at), 0.0, 1.0);
  if (analysis.x < 4) return c[analysis.x - 1];
  return max(c.r, max(c.g, c.b)) - min(c.r, min(c.g, c.b));
}
float fieldAt(vec2 at) {
  if (analysis.z == 0) return channelAt(at);
  float line = floor(at.y * clipSize.y);
  if (int(mod(line, 2.0)) == analysis.z - 1) return channelAt(at);
  vec2 up = vec2(0.0, 1.0 / clipSize.y);
  return 0.5 * (channelAt(at - up) + channelAt(at + up));
}
float softAt(vec2 at) {
  float sum = 0.0;
  for (int j = -1; j <= 1; j++)
    for (int i = -1; i <= 1; i++)
      sum += fieldAt(at + vec2(i, j) / clipSize) * float((2 - abs(i)) * (2 - abs(j)));
  return sum / 16.0;
}
// The mean and deviation of the square about a place, from a sparse grid over it.
float localContrastAt(vec2 at) {
  float sum = 0.0;
  float squares = 0.0;
  for (int j = -3; j <= 3; j++)
    for (int i = -3; i <= 3; i++) {
      float level = fieldAt(at + 3.0 * vec2(i, j) / clipSize);
      sum += level;
      squares += level * level;
    }
  float mean = sum / 49.0;
  float deviation = sqrt(max(squares / 49.0 - mean * mean, 0.0)) + 3.0 / 255.0;
  return 0.5 + (40.0 / 255.0) * (softAt(at) - mean) / deviation;
}
#endif
void main() {
#ifdef ANALYSED
  float level = analysis.y == 0 ? fieldAt(at) : analysis.y == 1 ? softAt(at) : localContrastAt(at);
  colour = vec4(vec3(level), 1.0);
#else
  vec3 shown = clamp(rgbAt(at), 0.0, 1.0);
  colour = vec4(mix(shown, 1.0 - shown, inverted), 1.0);
#endif
}`;

/** Draws pictures into panes with WebGL: matrix, bare edges and colour. */
export class Painter {
  private readonly gl: WebGL2RenderingContext;
  /** For the picture as it is, and, made when first needed, as a tracker sees it: its shader is much slower. */
  private readonly programs: { plain: Program; hatched: Program; squared: Program; analysed: Program | null };
  /** The planes of the frame, and of the pictures that were made of it. */
  private readonly frame: Planes;
  private readonly outputs: Record<OutputName, Planes>;

  constructor(
    private readonly canvas: OffscreenCanvas,
    private readonly clip: { width: number; height: number },
  ) {
    const gl = canvas.getContext('webgl2', {
      alpha: false,
      antialias: false,
      desynchronized: false,
      preserveDrawingBuffer: true,
    });
    if (!gl) throw new Error('This browser cannot draw with WebGL 2, which the pictures need.');
    this.gl = gl;
    this.programs = {
      plain: new Program(gl, fragment),
      hatched: new Program(gl, hatching),
      squared: new Program(gl, squared),
      analysed: null,
    };
    this.frame = new Planes(gl);
    this.outputs = { own: new Planes(gl), other: new Planes(gl) };
    gl.pixelStorei(gl.UNPACK_ALIGNMENT, 1);
    gl.enable(gl.SCISSOR_TEST);
  }

  /** Takes a frame over into the textures. */
  take(picture: Picture): void {
    this.frame.take(picture);
  }

  /** Takes over a picture that was made of the frame. */
  takeOutput(name: OutputName, picture: Picture): void {
    this.outputs[name].take(picture);
  }

  /** Draws the picture taken last into each pane. */
  draw(panes: readonly Pane[], background: [number, number, number]): void {
    const { gl, canvas } = this;
    gl.viewport(0, 0, canvas.width, canvas.height);
    gl.scissor(0, 0, canvas.width, canvas.height);
    gl.clearColor(...background, 1);
    gl.clear(gl.COLOR_BUFFER_BIT);
    for (const pane of panes) {
      const { left, top, right, bottom } = pictureIn(pane);
      if (right <= left || bottom <= top) continue;
      gl.scissor(left, canvas.height - bottom, right - left, bottom - top);
      if (pane.beyond !== 'nothing' && !pane.made && !covers(pane, this.clip)) this.drawBeyond(pane.beyond);
      this.planesOf(pane).bind();
      const { analysis } = pane;
      const program = analysis
        ? (this.programs.analysed ??= new Program(gl, fragment.replace('\n', '\n#define ANALYSED\n')))
        : this.programs.plain;
      program.use();
      if (analysis) {
        const { channel, filter, fields } = analysis;
        gl.uniform2f(program.uniform('clipSize'), this.clip.width, this.clip.height);
        gl.uniform3i(
          program.uniform('analysis'),
          channels.indexOf(channel),
          filters.indexOf(filter),
          fieldChoices.indexOf(fields),
        );
      }
      program.draw(deviceFromRows(pane, this.clip, canvas));
      if (pane.against) this.drawAgainst(pane, pane.against);
    }
    gl.flush();
  }

  private planesOf({ made }: Pick<Pane, 'made'>): Planes {
    return made ? this.outputs[made] : this.frame;
  }

  private drawBeyond(beyond: Exclude<Pane['beyond'], 'nothing'>): void {
    const { gl } = this;
    if (beyond === 'black') {
      gl.clearColor(0, 0, 0, 1);
      gl.clear(gl.COLOR_BUFFER_BIT);
      return;
    }
    const ground = beyond === 'hatching' ? this.programs.hatched : this.programs.squared;
    ground.use();
    ground.draw([wholeCanvas, wholeCanvas]);
  }

  /** Lays the frame taken last over a pane, placed as it has it, to be seen by a share. */
  drawOver(pane: Pane, share: number): void {
    const { gl, canvas } = this;
    const { left, top, right, bottom } = pictureIn(pane);
    if (right <= left || bottom <= top) return;
    gl.scissor(left, canvas.height - bottom, right - left, bottom - top);
    this.frame.bind();
    gl.enable(gl.BLEND);
    gl.blendColor(0, 0, 0, share);
    gl.blendFunc(gl.CONSTANT_ALPHA, gl.ONE_MINUS_CONSTANT_ALPHA);
    const { plain } = this.programs;
    plain.use();
    plain.draw(deviceFromRows({ ...pane, made: null }, this.clip, canvas));
    gl.disable(gl.BLEND);
    gl.flush();
  }

  /** Lays something over a pane, inverted and half to be seen: what is alike comes to grey. */
  private drawAgainst(pane: Pane, against: NonNullable<Pane['against']>): void {
    const { gl } = this;
    this.planesOf(against).bind();
    gl.enable(gl.BLEND);
    gl.blendColor(0, 0, 0, 0.5);
    gl.blendFunc(gl.CONSTANT_ALPHA, gl.ONE_MINUS_CONSTANT_ALPHA);
    const { plain } = this.programs;
    plain.use();
    gl.uniform1f(plain.uniform('inverted'), 1);
    plain.draw(deviceFromRows({ ...pane, ...against }, this.clip, this.canvas));
    gl.uniform1f(plain.uniform('inverted'), 0);
    gl.disable(gl.BLEND);
  }
}

/** The device pixels of a pane that its picture fills. */
function pictureIn(pane: Pane) {
  const { picture } = pane;
  return {
    left: Math.max(pane.x, Math.round(pane.shiftX)),
    top: Math.max(pane.y, Math.round(pane.shiftY)),
    right: Math.min(pane.x + pane.width, Math.round(pane.shiftX + pane.scaleX * picture.width)),
    bottom: Math.min(pane.y + pane.height, Math.round(pane.shiftY + pane.scaleY * picture.height)),
  };
}

/** WebGL's −1…1 from the frame as a unit square, at rows from its first to its last. */
function deviceFromRows(pane: Pane, clip: Size, canvas: Size): Mat3[] {
  const view: Mat3 = [pane.scaleX, 0, pane.shiftX, 0, pane.scaleY, pane.shiftY, 0, 0, 1];
  const device: Mat3 = [2 / canvas.width, 0, -1, 0, -2 / canvas.height, 1, 0, 0, 1];
  const { outputFromFrame, byRows, picture, made } = pane;
  if (made) {
    const whole = multiply(device, multiply(view, scaling(picture.width, picture.height)));
    return [whole, whole];
  }
  const shown = multiply(device, multiply(view, outputFromFrame));
  const square = scaling(clip.width, clip.height);
  if (!byRows) return [multiply(shown, square), multiply(shown, square)];
  return Array.from({ length: rowKnots }, (_, knot) =>
    multiply(shown, multiply(invert(rowMatrix(byRows.rows, byRows.frame, knot)), square)),
  );
}

const wholeCanvas: Mat3 = [2, 0, -1, 0, 2, -1, 0, 0, 1];

/** Whether the frame leaves no edge of the picture bare. */
const covers = ({ outputFromFrame, byRows, picture }: Pane, clip: Size): boolean =>
  overhang(outputFromFrame, { ...clip, output: picture }, byRows?.rows, byRows?.frame).every(
    (pixels) => pixels <= bareTolerance,
  );

const planeNames = ['yPlane', 'uPlane', 'vPlane'];

/** The planes of a picture as textures. */
class Planes {
  private readonly textures: WebGLTexture[];
  private size = { width: 0, height: 0 };

  constructor(private readonly gl: WebGL2RenderingContext) {
    this.textures = planeNames.map((_, i) => {
      const texture = gl.createTexture();
      gl.activeTexture(gl.TEXTURE0 + i);
      gl.bindTexture(gl.TEXTURE_2D, texture);
      for (const [key, value] of [
        [gl.TEXTURE_MIN_FILTER, gl.LINEAR],
        [gl.TEXTURE_MAG_FILTER, gl.LINEAR],
        [gl.TEXTURE_WRAP_S, gl.CLAMP_TO_EDGE],
        [gl.TEXTURE_WRAP_T, gl.CLAMP_TO_EDGE],
      ])
        gl.texParameteri(gl.TEXTURE_2D, key, value);
      return texture;
    });
  }

  bind(): void {
    const { gl } = this;
    this.textures.forEach((texture, i) => {
      gl.activeTexture(gl.TEXTURE0 + i);
      gl.bindTexture(gl.TEXTURE_2D, texture);
    });
  }

  take({ data, width, height }: Picture): void {
    const { gl } = this;
    const half = { width: (width + 1) >> 1, height: (height + 1) >> 1 };
    const planes = [
      { width, height, at: 0 },
      { ...half, at: width * height },
      { ...half, at: width * height + half.width * half.height },
    ];
    const fresh = this.size.width !== width || this.size.height !== height;
    this.size = { width, height };
    this.bind();
    planes.forEach((plane, i) => {
      gl.activeTexture(gl.TEXTURE0 + i);
      if (fresh)
        gl.texImage2D(gl.TEXTURE_2D, 0, gl.R8, plane.width, plane.height, 0, gl.RED, gl.UNSIGNED_BYTE, null);
      const pixels = data.subarray(plane.at, plane.at + plane.width * plane.height);
      gl.texSubImage2D(gl.TEXTURE_2D, 0, 0, 0, plane.width, plane.height, gl.RED, gl.UNSIGNED_BYTE, pixels);
    });
  }
}

/** A compiled pair of shaders and where its uniforms are. */
class Program {
  private readonly program: WebGLProgram;
  private readonly places = new Map<string, WebGLUniformLocation | null>();

  constructor(
    private readonly gl: WebGL2RenderingContext,
    shading: string,
  ) {
    this.program = build(gl, shading);
    this.use();
    planeNames.forEach((name, i) => gl.uniform1i(this.uniform(name), i));
  }

  use(): void {
    this.gl.useProgram(this.program);
  }

  /** Draws the frame where the matrices put its rows, the first to the last. */
  draw(rows: readonly Mat3[]): void {
    const columns = rows.flatMap((m) => [m[0], m[3], m[6], m[1], m[4], m[7], m[2], m[5], m[8]]);
    this.gl.uniformMatrix3fv(this.uniform('deviceFromRow'), false, columns);
    this.gl.uniform1i(this.uniform('rows'), rows.length);
    this.gl.drawArrays(this.gl.TRIANGLE_STRIP, 0, 2 * rows.length);
  }

  uniform(name: string): WebGLUniformLocation | null {
    const { gl, program, places } = this;
    if (!places.has(name)) places.set(name, gl.getUniformLocation(program, name));
    return places.get(name) ?? null;
  }
}

function build(gl: WebGL2RenderingContext, shading: string): WebGLProgram {
  const program = gl.createProgram();
  for (const [kind, text] of [
    [gl.VERTEX_SHADER, vertex],
    [gl.FRAGMENT_SHADER, shading],
  ] as const) {
    const shader = gl.createShader(kind);
    if (!shader) throw new Error('WebGL refused a shader.');
    gl.shaderSource(shader, text);
    gl.compileShader(shader);
    if (!gl.getShaderParameter(shader, gl.COMPILE_STATUS))
      throw new Error(gl.getShaderInfoLog(shader) ?? 'A shader is wrong.');
    gl.attachShader(program, shader);
  }
  gl.linkProgram(program);
  return program;
}
