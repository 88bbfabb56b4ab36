// Hands on what the microphone gives, block by block; runs in the audio thread.
class Tap extends AudioWorkletProcessor {
  process(inputs) {
    const channel = inputs[0]?.[0];
    if (channel) this.port.postMessage(channel.slice());
    return true;
  }
}
registerProcessor("tap", Tap);
