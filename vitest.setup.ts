import fc from 'fast-check'

// the same examples on every run; set FC_SEED to look at others
fc.configureGlobal({ seed: Number(process.env.FC_SEED ?? 20261123) })
