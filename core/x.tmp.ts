import { requestOf, asRequest } from './test/plan-case.ts'
import { otherSchools } from './src/analysis/index.ts'
for (const n of ['alpha-lattice-oat','row-column-oat','augmented-oat','multi-site-barley','multi-site-factorial-lentil','m-stability','m-spatial','rcbd-oat-screening','split-plot-missing-barley']) {
  const t=performance.now()
  const s=otherSchools(asRequest(requestOf(n)))
  console.log('==',n,(performance.now()-t).toFixed(0)); for(const x of s) console.log(x.question,'|',x.taken,'|',x.because,'|',x.sentence,JSON.stringify(x.aic))
}
import { comparisonMethod, studentizedRangeUpper, studentizedRangeQuantile } from './src/statistics/index.ts'
{ const k=30; const v=Array.from({length:k},(_,i)=>Math.sin(i*7)*2); const df=(a:number,b:number)=>12+((a*7+b*3)%40)/3
const e={values:v,covariance:()=>0,differenceVariance:()=>0.7,df,oneError:false,estimable:()=>true}
const t=performance.now(); const r=comparisonMethod('tukey').compare(e,{level:.05,control:-1,side:'two-sided'}); console.log('tukey',performance.now()-t)
let worst=0,wc=0; for(const x of r.filter((_,i)=>i%17===0)){ const p=studentizedRangeUpper(Math.SQRT2*Math.abs(x.t),k,x.df); worst=Math.max(worst,Math.abs(x.p-p)/p); wc=Math.max(wc,Math.abs(x.threshold/x.sed*Math.SQRT2/studentizedRangeQuantile(.05,k,x.df)-1)) } console.log(worst,wc) }
