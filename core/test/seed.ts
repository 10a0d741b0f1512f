import fc from 'fast-check'

/** Property tests run from one seed, so that a run says of the code and not of the day; CANTER_SEED tries another. */
fc.configureGlobal({ seed: Number(process.env['CANTER_SEED'] ?? 20261125) })
