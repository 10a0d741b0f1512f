import { readFileSync } from 'node:fs'
import Papa from 'papaparse'
import { designMatrix, fitField, fitStructured, groundModels, satterthwaite, type Classification } from './src/statistics/index.ts'
import { chanceFrom } from './src/design/index.ts'
const cls = (rows: any[], c: string): Classification => { const l=[...new Set(rows.map(r=>r[c]))].sort((a,b)=>Number(a)-Number(b)||(a<b?-1:1)); return {name:c,levels:l,codes:Int32Array.from(rows,r=>l.indexOf(r[c]))} }
{
  const rows = Papa.parse<Record<string,string>>(readFileSync(`core/fixtures/reference/m-spatial/data.csv`,'utf8').trim(),{header:true}).data
  const v=cls(rows,'variety'); const y=Float64Array.from(rows,r=>Number(r.yield_t_ha)); const d=designMatrix([v],[['variety']],y.length,'reference')
  for(let i=0;i<2;i++){
  const t=performance.now()
  const fit=fitField({y,fixed:d.columns,rows:Int32Array.from(rows,r=>Number(r.row)-1),columns:Int32Array.from(rows,r=>Number(r.col)-1)})
  const t1=performance.now()
  const r=Float64Array.from(d.columns,(_,j)=>j===1?1:j===4?-1:0)
  console.log(fit.converged,fit.iterations,-fit.minusTwoLogLikelihood/2,fit.values,t1-t,satterthwaite(fit).estimate(r),performance.now()-t1)
  if(i)console.log(fit.observedInformation().values)
  }
  const fit=fitStructured({y,fixed:d.columns,random:[],errors:groundModels[1]!.model({across:rows.map(r=>Number(r.x_m)),along:rows.map(r=>Number(r.y_m))})})
  const r=Float64Array.from(d.columns,(_,j)=>j===1?1:j===4?-1:0)
  console.log(satterthwaite(fit).estimate(r),fit.observedInformation().values)
}
{
  const chance = chanceFrom(5)
  const noise=()=>{let s=-6;for(let i=0;i<12;i++)s+=chance.below(1e6)/1e6;return s}
  const R=25,C=40,u=new Float64Array(R*C)
  for(let r=0;r<R;r++)for(let c=0;c<C;c++){ const a=r?u[(r-1)*C+c]!:0,b=c?u[r*C+c-1]!:0,ab=r&&c?u[(r-1)*C+c-1]!:0; u[r*C+c]=0.5*a+0.8*b-0.4*ab+Math.sqrt((1-.25)*(1-.64))*noise() }
  const rows:number[]=[],cols:number[]=[],e:number[]=[],yy:number[]=[]
  for(let i=0;i<R*C;i++){ if(i%50===7)continue; rows.push(Math.floor(i/C));cols.push(i%C);const v=chance.below(40);e.push(v);yy.push(5+v*.02+0.6*u[i]!+0.4*noise()) }
  const v=cls(e.map(x=>({v:String(x)})),'v'); const y=Float64Array.from(yy); const d=designMatrix([v],[['v']],y.length,'reference')
  const t=performance.now()
  const fit=fitField({y,fixed:d.columns,rows:Int32Array.from(rows),columns:Int32Array.from(cols)})
  const t1=performance.now()
  console.log(y.length,fit.converged,fit.iterations,-fit.minusTwoLogLikelihood/2,fit.values,t1-t)
  const f=satterthwaite(fit); console.log(f.estimate(Float64Array.from(d.columns,(_,j)=>j===1?1:0)),performance.now()-t1)
}
