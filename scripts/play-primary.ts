// Plays a primary server that takes updates, for pictures: node with tsx, scripts/play-primary.ts FILE PORT.
import { Primary } from '../src/serve/primary.ts'
import { serve } from '../src/serve/sockets.ts'
import { bareFiles, loadZones } from '../src/workspace/workspace.ts'

const [file, port] = process.argv.slice(2)
await serve(new Primary(loadZones(bareFiles([file!]))).respond, { port: Number(port) })
