const server = await import("../packages/server/dist/index.js");
const core = await import("@yelm/core"); const m = await import("./measure-mixtures.mjs");
import { readFileSync, existsSync } from "node:fs";
const heap = await server.openKernels();
const pics={};
const files=process.argv[2]?process.argv[2].split(","):["0101","0103","0104","0105","0106","0108","0109","0112","0113"];
for(const f of files){ const name=existsSync(`demo/negatives/orrow-${f}.dng`)?`orrow-${f}.dng`:`orrow-${f}.jpg`; const o=await m.open(heap,readFileSync("demo/negatives/"+name),name); const r=core.defaultRecipe(); const v=core.colourView(o.engine,r,o.size); const planes=o.engine.renderWorking(v.print,v.view).map(p=>p.slice()); pics[f]={planes,width:v.view.width,height:v.view.height}; }
const label=(pic)=>{ const look=core.lookAtPicture?core.lookAtPicture(pic):(()=>{const cells=core.colourCells(pic);return{cells,found:core.findFamilies(cells)}})(); const map=core.mapFamilies({families:[...look.found],softness:.5},pic,look.cells); return {fam:look.found,labels:map.labels,facts:map.facts}; };
const map=(pic,f)=>({...pic,planes:f(pic.planes)});
const scale=(pic,g)=>map(pic,ps=>ps.map((p,c)=>p.map(v=>Math.min(1.2,v*g[c]))));
const wb=(pic,k)=>{ const M=core.balanceMatrix({kind:"temperature",kelvin:6500+k,tint:0}, core.D65); return M?map(pic,ps=>{const out=[0,1,2].map(()=>new Float32Array(ps[0].length)); for(let i=0;i<ps[0].length;i++){const w=core.transform3(M,[ps[0][i],ps[1][i],ps[2][i]]);for(let c=0;c<3;c++)out[c][i]=w[c]} return out;}):null};
const crop=(pic)=>{const {width,height,planes}=pic; const w=Math.floor(width*.837),h=Math.floor(height*.837),x0=Math.floor(width*.1),y0=Math.floor(height*.08); return {x0,y0,width:w,height:h,planes:planes.map(p=>{const o=new Float32Array(w*h);for(let y=0;y<h;y++)for(let x=0;x<w;x++)o[y*w+x]=p[(y+y0)*width+x+x0];return o})}};
let s=1; const rnd=()=>{s=(s*1664525+1013904223)>>>0;return s/4294967296}; const nrm=()=>Math.sqrt(-2*Math.log(1-rnd()))*Math.cos(6.283*rnd());
const noisy=(pic)=>map(pic,ps=>ps.map(p=>p.map(v=>v+nrm()*Math.sqrt(4e-5*Math.max(0,v)+1e-6))));
const agree=(a,b,pick)=>{ const c=new Map(); const n=b.length; for(let i=0;i<n;i++){const k=a[pick?pick(i):i]*256+b[i]; c.set(k,(c.get(k)??0)+1)} 
 const by=new Map(); for(const [k,v] of c){const bb=k&255; const cur=by.get(bb); if(!cur||cur[1]<v) by.set(bb,[k>>8,v]);} let ok=0; for(const [,[,v]] of by) ok+=v;
 const by2=new Map(); for(const [k,v] of c){const aa=k>>8; const cur=by2.get(aa); if(!cur||cur<v) by2.set(aa,v);} let ok2=0; for(const v of by2.values()) ok2+=v; return Math.min(ok,ok2)/n; };
let worst=1;
for(const [f,pic] of Object.entries(pics)){ const base=label(pic);
 const names=base.fam.map((x,i)=>`${x.name} ${(100*base.facts[i].share).toFixed(1)}`).join(", ");
 const res={}; const add=(n,p,pick)=>{ if(!p) return; const l=label(p); res[n]=`${(100*agree(base.labels,l.labels,pick)).toFixed(0)}(${l.fam.length})`; worst=Math.min(worst,agree(base.labels,l.labels,pick)) };
 const g=2**(1/3); add("+1/3",scale(pic,[g,g,g])); add("-1/3",scale(pic,[1/g,1/g,1/g]));
 add("warm",scale(pic,[1.07,1,.9])); add("cool",scale(pic,[.93,1,1.1]));
 const cr=crop(pic); add("crop",cr,i=>{const x=i%cr.width,y=(i-x)/cr.width;return (y+cr.y0)*pic.width+x+cr.x0}); add("noise",noisy(pic));
 console.log(f,base.fam.length,names,`neutral ${(100*base.facts.at(-1).share).toFixed(1)}`); console.log("    ",JSON.stringify(res)); }
console.log("worst",worst.toFixed(3));
