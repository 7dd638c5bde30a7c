// The demonstration is made once for all tests of a run.
import { Server } from './server.ts'

export default () => Server.demonstrate()
