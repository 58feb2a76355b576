((d,w)=>{d.addEventListener("DOMContentLoaded",()=>{let A=s=>d.querySelectorAll(s),acts=[],ev=["scroll","wheel","pointerdown","keydown"],
go=s=>{let n=d.createElement("script");for(let a of s.attributes)/^(type|data-hold)$/.test(a.name)||n.setAttribute(a.name,a.value);n.async=s.async;n.text=s.text;s.replaceWith(n)},
io=new IntersectionObserver(l=>l.forEach(e=>{e.isIntersecting&&(io.unobserve(e.target),e.target.late.forEach(f=>f()))}),{rootMargin:"800px"}),
when=(how,t,f)=>{how=="act"?acts.push(f):((t.late=t.late||[]).push(f),io.observe(t))},
act=()=>{ev.forEach(n=>w.removeEventListener(n,act));acts.forEach(f=>f())};
for(let s of A("script[data-hold]")){let t=s.dataset.hold,f=A(`[data-for="${t}"]`)[0];
f?f.addEventListener("wanted",()=>{f.remove();go(s)}):when(t,A(`[data-near="${t}"]`)[0]||s.parentNode,()=>go(s))}
for(let t of A("[data-late]"))when(t.dataset.late,t,()=>{t.dataset.seen="";t.play&&t.play()});
ev.forEach(n=>w.addEventListener(n,act,{passive:!0}))})})(document,window)
