/** Takes what the microphone gives, without the browser's own gain, echo and noise handling, and says whether it kept them on. */
export type Recording = { file: File; gainMoves: boolean; seconds: number };

const BEGIN_S = 2; // a microphone that gives nothing for longer is recorded as it is

const WANTED = { echoCancellation: false, noiseSuppression: false, autoGainControl: false };

export async function record(seconds: number, name: string, told: (left: number) => void, stop: AbortSignal): Promise<Recording> {
  if (!navigator.mediaDevices)
    throw new Error(
      "this browser gives its microphone only to a page of its own machine, or over https; bring in a file instead",
    );
  const stream = await navigator.mediaDevices.getUserMedia({ audio: WANTED });
  const track = stream.getAudioTracks()[0];
  const settings = track?.getSettings() ?? {};
  const gainMoves = Boolean(settings.autoGainControl || settings.noiseSuppression || settings.echoCancellation);
  const context = new AudioContext();
  const blocks: Float32Array[] = [];
  let samples = 0;
  let waited = 0; // until the microphone's first sound is here, the graph hands on silence
  try {
    await context.audioWorklet.addModule("/static/tap.js");
    const tap = new AudioWorkletNode(context, "tap");
    const done = new Promise<void>((resolve, reject) => {
      stop.addEventListener("abort", () => reject(new Error("called off")));
      tap.port.onmessage = (e: MessageEvent<Float32Array>) => {
        if (samples >= seconds * context.sampleRate) return; // it is over: what still comes is not asked for
        if (!samples && waited < BEGIN_S * context.sampleRate && e.data.every((x) => x === 0)) {
          waited += e.data.length;
          return;
        }
        blocks.push(e.data);
        samples += e.data.length;
        told(Math.max(seconds - samples / context.sampleRate, 0));
        if (samples >= seconds * context.sampleRate) resolve();
      };
    });
    context.createMediaStreamSource(stream).connect(tap);
    await done;
    const whole = new Float32Array(samples);
    let at = 0;
    for (const b of blocks) {
      whole.set(b, at);
      at += b.length;
    }
    return {
      file: new File([wav(whole, context.sampleRate)], name, { type: "audio/wav" }),
      gainMoves,
      seconds: samples / context.sampleRate,
    };
  } finally {
    for (const t of stream.getTracks()) t.stop();
    await context.close();
  }
}

/** One channel of floats as a WAV file: nothing is rounded on the way. */
export function wav(samples: Float32Array, rate: number): ArrayBuffer {
  const head = 44;
  const bytes = new ArrayBuffer(head + 4 * samples.length);
  const view = new DataView(bytes);
  const text = (at: number, words: string) => {
    for (let i = 0; i < words.length; i++) view.setUint8(at + i, words.charCodeAt(i));
  };
  text(0, "RIFF");
  view.setUint32(4, bytes.byteLength - 8, true);
  text(8, "WAVEfmt ");
  view.setUint32(16, 16, true);
  view.setUint16(20, 3, true); // floats
  view.setUint16(22, 1, true);
  view.setUint32(24, rate, true);
  view.setUint32(28, 4 * rate, true);
  view.setUint16(32, 4, true);
  view.setUint16(34, 32, true);
  text(36, "data");
  view.setUint32(40, 4 * samples.length, true);
  for (let i = 0; i < samples.length; i++) view.setFloat32(head + 4 * i, samples[i] as number, true);
  return bytes;
}
