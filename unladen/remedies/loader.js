((d,w,on)=>{on(d,"DOMContentLoaded",()=>{let A=s=>d.querySelectorAll(s),q=[],late=[],
go=s=>{let n=s.cloneNode(!0);n.removeAttribute("type");n.async=s.async;s.replaceWith(n)},
near=(t,f)=>new IntersectionObserver((l,o)=>{l.some(e=>e.isIntersecting)&&(o.disconnect(),f())},{rootMargin:"800px"}).observe(t),
run=l=>l.splice(0).forEach(f=>f());
for(let s of A("script[data-hold]")){let t=s.dataset.hold,g=()=>go(s),f=A(`[data-for="${t}"]`)[0];
f?on(f,"wanted",()=>{f.remove();g()}):t=="act"?q.push(g):near(A(`[data-near="${t}"]`)[0]||s.parentNode,g)}
for(let t of A("[data-late]")){let p=t.dataset.picture,f=()=>{t.dataset.seen="";p?t.poster=p:t.play&&t.play()};t.dataset.late=="act"?late.push(f):near(t,f)}
for(let n of["scroll","wheel","pointerdown","keydown"])on(w,n,()=>{run(late);run(q)});
on(w,"load",()=>setTimeout(()=>new MutationObserver(()=>run(late)).observe(d.body,{subtree:!0,attributeFilter:["class","style"]}),300))})})(document,window,(t,n,f)=>t.addEventListener(n,f))
