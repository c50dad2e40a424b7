import { listen, mouthCurves, readWav, writeMouthShapes } from '@chiraxis/core/voice'
import { readBody, writeBytes } from '../files'
import { runJob } from '../report'

/** `voice SOUND.wav --out S.json`: what a mouth does to a voice, over time. */
export async function voiceCommand(
  sound: string,
  options: { out: string; fps: string; lead: string; report?: string },
): Promise<void> {
  await runJob({ report: options.report, out: options.out, reads: [sound] }, async job => {
    const read = await job.step('read', () => readWav(readBody(sound)))
    const heard = await job.step('listen', () => listen(read))
    const how = { fps: Number(options.fps), lead: Number(options.lead) / 1000 }
    const curves = mouthCurves(heard.said, heard.seconds, how)
    writeBytes(options.out, new TextEncoder().encode(writeMouthShapes(heard, curves, how)))
    return { seconds: heard.seconds, rate: read.rate, fps: how.fps, tract: heard.tract, said: heard.said }
  })
}
