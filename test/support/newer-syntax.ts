/** Programs that use syntax which is compiled for older browsers, by what they are about. They call `log`. */
export const newerSyntax: Readonly<Record<string, Readonly<Record<string, string>>>> = {
  objects: {
    spreadSetter: 'const o={set x(v){log("set",v)},...{x:1}}; log(Object.keys(o), o.x)',
    spreadGetter: 'const o={get x(){return 5},...{x:1}}; log(o.x)',
    spreadProto: 'const o={...{a:1},__proto__:{b:2}}; log(o.b,Object.keys(o))',
    spreadProto2: 'const o={__proto__:{set a(v){log("inherited",v)}},...{a:1}}; log(o.a)',
    spreadProtoKey: 'const o={...JSON.parse(\'{"__proto__":{"z":1}}\')}; log(o.z,Object.keys(o))',
    spreadOrder: 'const o={a:log("a"),...(log("s"),{get b(){log("get");return 1}}),c:log("c")}; log(JSON.stringify(o))',
    spreadFrozen: 'const o={...Object.freeze({a:1})}; o.a=2; log(o.a)',
    restKeys:
      'const k=()=>{log("k");return "a"}; const {[k()]:x,...r}={a:1,b:2,[Symbol.for("s")]:3}; log(x,JSON.stringify(r),r[Symbol.for("s")])',
    restNum: 'const {1:a,...r}={1:2,3:4}; log(a,JSON.stringify(r))',
    restParam: 'function f({a,...r}={a:1,b:2},c=r){ log(a,JSON.stringify(r),c===r) } f(); f({b:3})',
    restCatch: 'try { throw {a:1,b:2} } catch ({a,...r}) { log(a,JSON.stringify(r)) }',
    restForOf: 'for (const {a,...r} of [{a:1,b:2},{a:3,c:4}]) log(a,JSON.stringify(r))',
    restForAssign: 'let a,r; for ({a,...r} of [{a:1,b:2}]) log(a,JSON.stringify(r))',
    restExpr: 'let a,r; const v={a:1,b:2}; log(({a,...r}=v)===v,a,JSON.stringify(r))',
    restProtoKey:
      'const { a, ...r } = JSON.parse(\'{"a":1,"__proto__":{"z":1}}\'); log(r.z, Object.keys(r), Object.getPrototypeOf(r) === Object.prototype)',
    restNull: 'try { const { ...r } = null } catch (e) { log(e.name) } const { ...s } = "ab"; log(JSON.stringify(s))',
    restGetter:
      'const { ...r } = { get a() { log("get"); return 1 } }; r.a = 2; log(r.a); const { [Symbol.iterator]: i, ...q } = [1]; log(typeof i, JSON.stringify(q))',
    restProtoNull: 'const {...r}=Object.create({a:1}); log(JSON.stringify(r))',
    superObj:
      'const p={m(){return "p"+this.n}}; const o={__proto__:p,n:1,m(){return super.m()+"o"},async a(){return super.m()}}; log(o.m()); o.a().then(x=>log(x))',
    shorthand:
      'const a=1,o={a,["b"+a]:2,get c(){return 3},d(){return 4},async e(){}}; log(JSON.stringify(o),o.c,o.d(),o.d.name,Object.getOwnPropertyDescriptor(o,"c").get.name)',
    computedOrder:
      'const k=n=>(log("k"+n),n); const o={[k(1)]:log("v1"),[k(2)]:log("v2"),get [k("g")](){return 7},x:log("x")}; log(o.g)',
    dupProto: 'const o={["__proto__"]:5}; log(Object.keys(o),o.__proto__)',
    getterSuper:
      'class A{get x(){return 1}} class B extends A{get x(){return super.x+1} set x(v){log(v)}} const b=new B; b.x=3; log(b.x)',
  },
  'chains and assignments': {
    chainDelete: 'const o={a:{b:1}}; log(delete o?.a?.b, JSON.stringify(o), delete o?.z?.b)',
    chainCall: 'const o={f(){return this===o}}; log(o?.f(), o.f?.(), (o?.f)(), (o.f)?.())',
    chainSuper:
      'class A{m(){return this.x}} class B extends A{x=3; t(){return super.m?.()} u(){return super["z"]?.()}} log(new B().t(), new B().u())',
    nullish:
      'let n=0; const f=()=>{n++;return null}; log(f()??1,n); let a; a??=4; log(a); const o={get x(){log("g");return 0},set x(v){log("s",v)}}; o.x??=1; o.x||=2; o.x&&=3; log(Object.keys(o))',
    logicalName: 'let f; f??=()=>{}; log(f.name); let g=1; g&&=class{}; log(g.name)',
    logicalIdx:
      'let i=0; const a=[0,0]; a[i++]||=5; log(a,i); const o={}; o[log("key"),"k"]??=1; log(JSON.stringify(o))',
    exp: 'log((-2)**2,2**3**2,(()=>{let a=2;a**=3;return a})()); const o={get x(){log("g");return 3},set x(v){log("s",v)}}; o.x**=2; log(typeof (2n**3n))',
  },
  classes: {
    privIn: 'class A{#x; static h(o){return #x in o}} log(A.h(new A),A.h({})); try{A.h(1)}catch(e){log(e.name)}',
    privMethods:
      'class A{#n=1; #inc(){this.#n++} get #v(){return this.#n} set #v(x){this.#n=x} t(){this.#inc(); this.#v=this.#v*10; this.#n+=2; this.#v++; return [this.#v,this.#n]}} log(new A().t())',
    privStatic:
      'class A{static #c=0; static inc(){return ++A.#c} static #p(){return "p"} static q(){return this.#p()}} log(A.inc(),A.inc(),A.q()); class B extends A{} try{B.q()}catch(e){log(e.name)}',
    privDestr:
      'class A{#x;#y; t(){ [this.#x,this.#y=5]=[1]; ({a:this.#x}={a:7}); return [this.#x,this.#y] }} log(new A().t())',
    privTag: 'class A{#f(s){return [s[0],this instanceof A]} t(){return this.#f`hi`}} log(new A().t())',
    privBrand: 'class A{#x=1; g(){return this.#x}} try{A.prototype.g.call({})}catch(e){log(e.name)}',
    privTwice:
      'class R{constructor(o){return o}} class A extends R{#x=1} const o={}; new A(o); try{new A(o)}catch(e){log(e.name)}',
    privMethodWrite: 'class A{#m(){} t(){ this.#m=1 }} try{new A().t()}catch(e){log(e.name)}',
    privGetOnly: 'class A{get #x(){return 1} t(){ this.#x=2 }} try{new A().t()}catch(e){log(e.name)}',
    privComma: 'class A{#m(){return this} t(){return (0,this.#m)()===undefined}} log(new A().t())',
    privOrder:
      'class A{#x=log("x"); [log("k")]=log("v"); static s=log("s"); static {log("b")} static [log("sk")]=log("sv")} new A()',
    fieldThis:
      'class A{a=this; b=()=>this; static c=this; static d=()=>this} const x=new A; log(x.a===x,x.b()===x,A.c===A,A.d()===A)',
    fieldName:
      'class A{f=()=>{}; g=function(){}; h=class{}; static i=()=>{}; "j k"=()=>{}; #p=()=>{}; n(){return this.#p.name}} const x=new A; log(x.f.name,x.g.name,x.h.name,A.i.name,x["j k"].name,x.n())',
    fieldDefine: 'class B{set x(v){log("setter",v)}} class A extends B{x=1} log(Object.keys(new A))',
    fieldComputedOnce: 'let n=0; class A{[`k${n++}`]=1} new A; log(Object.keys(new A),n)',
    fieldEvalOrder:
      'class B{constructor(){log("base")}} class A extends B{x=log("field"); constructor(){log("pre"); super(); log("post",this.x)}} new A',
    fieldParamShadow: 'const x=1; class A{y=x; constructor(x){log(this.y,x)}} new A(9)',
    fieldSuper:
      'class B{m(){return "B"} static s(){return "SB"}} class A extends B{f=super.m(); g=()=>super.m(); static h=super.s(); static {log(super.s())}} const a=new A; log(a.f,a.g(),A.h)',
    fieldNewTarget: 'class A{t=new.target} log(new A().t)',
    staticEmpty:
      'class A { static g; static ["h" + 1]; i; static #p; static t() { return this.#p } } log(Object.keys(A), Object.keys(new A()), A.t())',
    staticName: 'class A{static name="x"} log(A.name); class B{static n=B.name; static length=3} log(B.n,B.length)',
    staticInner: 'const C=class D{static d=D; static e=this; m(){return D}}; log(C.d===C,C.e===C,new C().m()===C)',
    staticReassign: 'let A=class{static s=1; static t(){return A}}; const B=A; A=null; log(B.t())',
    classInner: 'class A{static self=()=>A} const B=A; try{A=1}catch(e){log(e.name)} log(B.self()===B)',
    classInnerConst: 'class A{ t(){ try{ A=1 }catch(e){ return e.name } } } log(new A().t())',
    staticBlockAwait:
      'class A{static x; static{ const y=1; var z=2; this.x=y+z; function q(){return 5} this.q=q() }} log(A.x,A.q)',
    staticBlockTry: 'class A{static{ try{ throw 1 }catch(e){ log("c",e) } finally { log("f") } }}',
    accessorStatic: 'class A{static get x(){return 1} static set x(v){log("s",v)} static y=(this.x=5)} log(A.x)',
    accessorEnum:
      'class A{get x(){return 1} m(){}} log(Object.keys(A.prototype),JSON.stringify(Object.getOwnPropertyDescriptor(A.prototype,"x")&&{e:Object.getOwnPropertyDescriptor(A.prototype,"x").enumerable}))',
    classCallNoNew: 'class A{} try{A()}catch(e){log(e.name)}',
    classProto: 'class A{} log(Object.getOwnPropertyDescriptor(A,"prototype").writable)',
    methodNew: 'class A{m(){}} try{new (new A().m)}catch(e){log(e.name)}',
    extendsError:
      'class E extends Error{constructor(m){super(m);this.name="E"} hi(){return "hi"}} const e=new E("m"); log(e instanceof E,e instanceof Error,e.message,typeof e.hi,String(e))',
    extendsArray:
      'class A extends Array{sum(){return this.reduce((a,b)=>a+b,0)}} const a=A.from([1,2,3]); log(a instanceof A,a.length,typeof a.sum,a.map(x=>x) instanceof A); a[5]=1; log(a.length)',
    extendsMap:
      'try{class M extends Map{get(k){return super.get(k)??0}} const m=new M([["a",1]]); log(m.get("a"),m.get("b"),m.size)}catch(e){log(e.name)}',
    extendsPromise: 'try{class P extends Promise{} log(P.resolve(1) instanceof P)}catch(e){log(e.name)}',
    extendsNull:
      'class N extends null{static s(){return 1}} log(N.s(),Object.getPrototypeOf(N.prototype)); try{new N}catch(e){log(e.name)}',
    extendsFunc:
      'function F(){this.a=1} F.prototype.m=function(){return 2}; class G extends F{} log(new G().a,new G().m())',
    extendsBad: 'try{class X extends 5{}}catch(e){log(e.name)} try{class Y extends (()=>{}){}}catch(e){log(e.name)}',
    extendsReturn: 'class A{constructor(){return {z:1}}} class B extends A{x=2} log(JSON.stringify(new B))',
    superProp:
      'class A{get v(){return this._v} set v(x){this._v=x}} class B extends A{t(){super.v=4; super.v++; return [super.v,this._v]}} log(new B().t())',
    superAsync:
      'class A{async m(x){return x+1} get g(){return 9}} class B extends A{async m(x){const f=async()=>super.m(x); return await f()+super.g} async s(){super.q=3; return this.q}} new B().m(1).then(x=>log(x)); new B().s().then(x=>log(x))',
    superStatic:
      'class A{static m(){return this.n}} class B extends A{static n=3; static m(){return super.m()} static async a(){return super.m()}} log(B.m()); B.a().then(x=>log(x))',
    newTargetMethod:
      'var o={z:1}; class A{#x=1; #m({y:v=o.z}={}){this.#x=typeof new.target; var w=this?.#x; return [w,v,(()=>new.target)()]} get #g(){return new.target} t(){return [this.#m(),this.#g,new.target,o?.z?.y]}} log(JSON.stringify(new A().t())); function F(){return {[new.target===F](){return new.target}}} log(Object.keys(new F())[0],String(new F().true()))',
    newTarget:
      'function F(){return new.target===F} log(F(),typeof new F); class A{constructor(){log(new.target.name)}} class B extends A{} new B; const g=()=>{}; log(Reflect.construct(function(){this.t=new.target===B},[],B).t)',
  },
  'functions that wait and yield': {
    asyncArrow:
      'function f(){ return (async()=>[this.x,arguments[0],new.target===undefined])() } f.call({x:1},2).then(x=>log(x))',
    asyncDefaults:
      'async function f(a=(()=>{throw 1})()){ } f().catch(e=>log("rejected",e)); async function g({a}){} try { g().catch(e=>log(e.name)) } catch(e) { log("sync",e.name) }',
    asyncArgs:
      'async function f(a,b=2){ arguments[0]=9; await 0; return [a,b,arguments.length,f.length] } f(1).then(x=>log(x))',
    asyncSloppyArgs: 'async function f(a){ arguments[0]=9; return a } f(1).then(x=>log(x))',
    asyncFinally:
      'async function f(){ try{ await Promise.reject(1) }catch(e){ return e+1 } finally { await 0; log("fin") } } f().then(x=>log(x))',
    asyncLoop:
      'async function f(){ const r=[]; for(let i=0;i<3;i++){ r.push(()=>i); await i; if(i===1) continue; } return r.map(x=>x()) } f().then(x=>log(x))',
    asyncLabel:
      'async function f(){ o: for(const a of [1,2,3]) for(const b of [1,2]){ await 0; if(b===2) continue o; if(a===3) break o; log(a,b) } } f()',
    asyncThisInit:
      'class A{async m(){return this.x} x=5; p=async()=>this.x} new A().m().then(x=>log(x)); new A().p().then(x=>log(x))',
    asyncGen:
      'async function* g(){ try{ const x=yield 1; log("got",x); yield* [2,3]; yield* (async function*(){yield 4})(); return 5 } finally { log("cleanup") } } (async()=>{ const it=g(); log(JSON.stringify(await it.next())); log(JSON.stringify(await it.next("a"))); for await(const v of it) log(v) })()',
    asyncGenReturn:
      'async function* g(){ try{ yield 1; yield 2 } finally { log("f") } } (async()=>{ for await(const v of g()){ log(v); break } const it=g(); await it.next(); log(JSON.stringify(await it.return(7))) })()',
    asyncGenAwaitYield:
      'async function* g(){ yield Promise.resolve(3); const x = await (yield 4); log("x",x) } (async()=>{ const it=g(); log((await it.next()).value); log((await it.next()).value); await it.next(Promise.resolve(8)) })()',
    forAwait:
      '(async()=>{ for await(const x of [Promise.resolve(1),2]) log(x); try{ for await(const x of [Promise.reject(3)]) log(x) }catch(e){log("e",e)} })()',
    forAwaitClose:
      '(async()=>{ const it={[Symbol.asyncIterator](){return {n:0,next(){return Promise.resolve({value:this.n++,done:false})},return(){log("ret");return Promise.resolve({})}}}}; for await(const x of it){ if(x==2) break } l: for(;;){ for await(const x of it){ break l } } })()',
    asyncMethodComputed:
      'const o={async ["a"+1](){return 1}, async *g(){yield 2}, *h(){yield 3}}; o.a1().then(x=>log(x)); o.g().next().then(x=>log(x.value)); log([...o.h()])',
    genReturn:
      'function* g(){ try{ yield 1; yield 2 } finally { yield 3 } } const it=g(); log(JSON.stringify([it.next(),it.return(9),it.next(),it.next()]))',
    genThrow:
      'function* g(){ for(;;) try{ yield 1 }catch(e){ log("c",e); if(e===2) return "r" } } const it=g(); it.next(); it.throw(1); log(JSON.stringify(it.throw(2)))',
    genDelegate:
      'function* a(){ const r=yield* b(); log(r); return 3 } function* b(){ const x=yield 1; return x*2 } const it=a(); it.next(); log(JSON.stringify(it.next(4)))',
    genThis:
      'const o={*g(){yield this.x},x:6}; log([...o.g()]); function* q(){} log(q.prototype instanceof Object, q() instanceof q)',
    genArgs: 'function* g(){ yield arguments.length; yield* arguments } log([...g(1,2)])',
    genSwitch:
      'function* g(x){ switch(yield 1){ case 1: yield "a"; case 2: yield "b"; break; default: yield "d" } } for(const v of [1,2,3]){ const it=g(); it.next(); log(JSON.stringify(it.next(v))) }',
    genLet: 'function* g(){ for(let i=0;i<2;i++){ yield ()=>i } } log([...g()].map(f=>f()))',
  },
  'iteration and destructuring': {
    iterClose:
      'const it={[Symbol.iterator](){return {n:0,next(){return {value:this.n++,done:false}},return(){log("ret");return {}}}}}; const [a,b]=it; log(a,b); for(const x of it){ if(x>1) break } try{ for(const x of it) throw 5 }catch(e){log(e)} const [...[c]]=[1]; log(c); o: for(const y of [1,2]) for(const x of it) continue o;',
    iterSpread:
      'log([..."a😀b"].length,Math.max(...new Set([1,5,3])),[...[1,,3]].length, 1 in [...[,1]], 0 in [...[,1]]); const f=(...a)=>a.length; log(f(...new Map([[1,2]])),new (class{constructor(...a){this.n=a.length}})(...[1,2]).n)',
    iterDestr:
      'const [a,,b=5,...c]=new Set([1,2,undefined,4,5]); log(a,b,c); const [x]="😀"; log(x.length); try{const [q]=null}catch(e){log(e.name)} try{const [q]={}}catch(e){log(e.name)}',
    symbolIter:
      'class R{*[Symbol.iterator](){yield 1;yield 2}} log([...new R]); const o={*[Symbol.iterator](){yield* [1,2]}}; log(Array.from(o))',
    nestedDestr: 'const {a:{b:[c,{d=4}={}]=[]}={},...e}={a:{b:[1]},f:2}; log(c,d,JSON.stringify(e))',
    swap: 'let a=1,b=2; [a,b]=[b,a]; log(a,b); const o=[1,2,3]; [o[0],o[2]]=[o[2],o[0]]; log(o)',
    destrEval:
      'const log2=(x)=>(log("ev",x),x); const o={}; [o[log2("a")],o[log2("b")]]=[log2(1),log2(2)]; ({[log2("k")]:o[log2("t")]=log2("def")}={}); log(JSON.stringify(o))',
  },
  scopes: {
    letLoop:
      'const f=[]; for(let i=0,j=10;i<3;i++,j--) f.push(()=>[i,j]); log(JSON.stringify(f.map(x=>x()))); const g=[]; for(let i=0;i<2;i++){ g.push(()=>i); i+=0 } log(g.map(x=>x())); for(const k in {a:1,b:2}) g.push(()=>k); log(g[2](),g[3]())',
    letLoopCtl:
      'function f(){ for(let i=0;i<5;i++){ const g=()=>i; if(i===1) continue; if(i===3) return g() } } log(f()); l: for(let i=0;i<3;i++) for(let j=0;j<3;j++){ (()=>i+j)(); if(j===1) continue l; if(i===2) break l; log(i,j) }',
    letLoopThis:
      'function f(){ const r=[]; for(let i=0;i<2;i++) r.push(()=>[this.x,arguments[0],i]); return r.map(x=>x()) } log(JSON.stringify(f.call({x:1},2)))',
    letTdz: 'try{ x; let x=1 }catch(e){log(e.name)} try{ (()=>{ return y })(); }catch(e){log(e.name)} let y=1',
    letShadow:
      'let x=1; { let x=2; { let x=3; log(x) } log(x) } log(x); switch(1){ case 1: let x=5; log(x) } var f=()=>x; { let f=2 } log(typeof f)',
    letUndefLoop: 'for(let i=0;i<2;i++){ let u; log(u); u=i }',
    constAssign: 'const c=1; try{ c=2 }catch(e){log(e.name)} log(c)',
  },
  'functions and literals': {
    tmpl: 'const o={toString(){return "s"},valueOf(){return "v"}}; log(`${o}`,`a${1}b`); const sym=Symbol("x"); try{ `${sym}` }catch(e){log(e.name)}; log(`\\u{1F600}`.length,`a\nb`.length)',
    tagged:
      'const t=(s,...v)=>[s,s.raw,v]; const [s,r]=t`a\\n${1}b`; log(s[0],r[0],Object.isFrozen(s)); const f=()=>t`x`[0]; log(f()===f(),f()===t`x`[0]); log(String.raw`\\u00g${2}`.length)',
    fnName:
      'const f=function(){},g=()=>{},h=class{},o={i(){},j:()=>{},["k"+1]:()=>{}}; let [l=()=>{}]=[],{m=()=>{}}={}; log(f.name,g.name,h.name,o.i.name,o.j.name,o.k1.name,l.name,m.name)',
    fnLength: 'log(((a,b=1,c)=>{}).length,(function(...r){}).length,(({a},[b])=>{}).length)',
    defaults:
      'let x="out"; function f(a,b=()=>x+a,c=(a=5,a)){ var x="in"; return [b(),c,x,a] } log(f(1)); function g(a=b,b=1){} try{g()}catch(e){log(e.name)}; function h(a,b=arguments.length){return b} log(h(),h(1,undefined,3))',
    defaultsThis: 'const o={v:3,m(a=this.v,b=()=>this.v){return [a,b()]}}; log(o.m())',
    unicode:
      'const \\u{61}b=1; log(ab,"\\u{1F600}".codePointAt(0),/\\u{1F600}/u.test("😀"),/a.c/s.test("a\\nc"),"x".match(/(?<n>x)/).groups.n)',
    sticky: 'const r=/a/y; r.lastIndex=1; log(r.test("ba"),/[^a]/u.exec("😀")[0].length)',
    catchBind: 'try{throw 1}catch{log("c")} try{throw 2}catch(e){var e=3} log(typeof e)',
    argsAlias:
      'function f(a){ a=2; return arguments[0] } log(f(1)); function g(a,...r){ a=2; return arguments[0] } log(g(1)); function h(a=0){ a=2; return arguments[0] } log(h(1))',
    bigint: 'log(typeof 5n,5n*2n===10n,BigInt(3)+"")',
    regexD: 'log(/a(?<x>b)/d.exec("ab").indices.groups.x.join())',
  },
};
