//! How the page looks.

use super::picture;

/// Colours by their use, on light paper.
const LIGHT: &str = "--paper:#fbfaf6;--sheet:#ffffff;--ink:#16303f;--soft:#4d606b;--line:#d3dade;--link:#0a5d78;--band:#e9eef0;\
    --bad:#a61b12;--bad-sheet:#fdf0ee;--warn:#7d5200;--warn-sheet:#fdf6e6;--tip:#0c5a70;--fine:#226a3c;--fine-sheet:#e9f4ec;\
    --code:#f4f2ec;--marked:#ffe08a;--comes:#dff2e4;--goes:#fbe3e0;";
/// The same on dark paper.
const DARK: &str = "--paper:#0f1b23;--sheet:#15242e;--ink:#e4edf1;--soft:#a9bac4;--line:#33495a;--link:#7fd0e8;--band:#1c2f3b;\
    --bad:#ff8f80;--bad-sheet:#331d1f;--warn:#e6b45a;--warn-sheet:#2e2615;--tip:#6fc6d6;--fine:#7ed29a;--fine-sheet:#17301f;\
    --code:#101d26;--marked:#6b5310;--comes:#17382a;--goes:#43221f;";

const RULES: &str = "\
*{box-sizing:border-box}html{scroll-padding-top:4rem}\
body{margin:0;background:var(--paper);color:var(--ink);font:16px/1.55 system-ui,'Segoe UI',Roboto,'Helvetica Neue',sans-serif;\
overflow-wrap:anywhere}\
header,nav ul,main,footer{max-width:82rem;margin:0 auto;padding:0 1.25rem}\
a{color:var(--link)}a:focus-visible,summary:focus-visible,[tabindex]:focus-visible,input:focus-visible+label{outline:3px solid var(--link);outline-offset:2px}\
main:focus{outline:none}\
.skip{position:absolute;left:-99rem}.skip:focus{left:1rem;top:.5rem;background:var(--sheet);padding:.5rem 1rem;z-index:3}\
h1{font-size:1.5rem;margin:.1rem 0 1rem}h2{font-size:1.3rem;margin:0 0 1rem;padding-top:2.2rem}h3{font-size:1.05rem;margin:1.6rem 0 .6rem}\
.mark{margin:1.4rem 0 0;color:var(--soft);letter-spacing:.04em}\
.verdict{display:flex;gap:.8rem;align-items:baseline;margin:.6rem 0;padding:.8rem 1.1rem;border-left:6px solid var(--line);background:var(--sheet);\
font-size:1.12rem}.verdict .sign{font-weight:700}\
.verdict.broken{border-color:var(--bad);background:var(--bad-sheet)}.verdict.broken .sign{color:var(--bad)}\
.verdict.online{border-color:var(--fine);background:var(--fine-sheet)}.verdict.online .sign{color:var(--fine)}\
.verdict.perhaps{border-color:var(--warn);background:var(--warn-sheet)}.verdict.perhaps .sign{color:var(--warn)}\
.count{color:var(--soft);margin:.6rem 0 1rem}\
.switch,.theme{border:0;padding:0;margin:0 0 1.2rem;display:flex;flex-wrap:wrap;gap:.4rem;align-items:center}\
.switch legend,.theme legend{float:left;padding:0;margin-right:.6rem;color:var(--soft)}\
.switch input,.theme input{position:absolute;opacity:0;width:1px;height:1px}\
.switch label,.theme label{border:1px solid var(--line);border-radius:99px;padding:.1rem .8rem;cursor:pointer;background:var(--sheet)}\
input:checked+label{border-color:var(--link);box-shadow:inset 0 0 0 1px var(--link);font-weight:600}\
nav{position:sticky;top:0;background:var(--band);border-block:1px solid var(--line);z-index:2}\
nav ul{display:flex;flex-wrap:wrap;gap:.1rem 1.4rem;list-style:none;padding-block:.5rem}nav a{text-decoration:none}nav a:hover{text-decoration:underline}\
.number{display:inline-block;min-width:1.5em;text-align:center;margin-left:.4em;border-radius:99px;background:var(--sheet);color:var(--soft);font-size:.85em}\
.scroll{overflow-x:auto;border:1px solid var(--line);background:var(--sheet)}\
table{border-collapse:collapse;width:100%}th,td{text-align:left;padding:.4rem .8rem;border-bottom:1px solid var(--line);vertical-align:top}\
thead th{background:var(--band);font-weight:600;white-space:nowrap}thead th span{display:block;font-weight:400;color:var(--soft)}\
.grid{position:relative;padding-bottom:4.9rem}.grid th[scope=rowgroup]{background:var(--code)}.grid tbody th[scope=row]{font-weight:400;padding-left:1.6rem}\
.cell{display:inline-block;padding:.05rem .6rem;border-radius:4px;border:1px solid transparent;white-space:nowrap}\
.publishes{background:var(--fine-sheet);border-color:var(--fine);color:var(--fine);font-weight:600}.runs{background:var(--band)}\
.maybe,.by-hand{background:var(--warn-sheet);border:1px dashed var(--warn);color:var(--warn)}.not{color:var(--soft)}\
.tip{display:none;position:absolute;left:0;right:0;bottom:0;height:4.5rem;overflow:auto;padding:.7rem 1rem;background:var(--band);border-left:6px solid var(--tip);white-space:normal;color:var(--ink);font-weight:400}\
.cell:hover .tip,.cell:focus .tip{display:block}.tip-none{position:absolute;left:0;right:0;bottom:0;height:4.5rem;padding:.7rem 1rem;color:var(--soft);margin:0}\
pre,code,.code{font-family:ui-monospace,'DejaVu Sans Mono','Liberation Mono',Menlo,Consolas,monospace;font-size:.9em}.code{font-size:.88rem}\
.code{background:var(--code);border:1px solid var(--line);overflow-x:auto;margin:.5rem 0;padding:.4rem 0;overflow-wrap:normal}\
.code .row{display:block;white-space:pre;padding-right:1rem;min-width:max-content;line-height:1.5}.code .no{display:inline-block;width:4.2ch;margin-right:1ch;text-align:right;color:var(--soft);user-select:none}\
.code .sign{display:inline-block;width:2ch;text-align:center;user-select:none}\
mark{background:var(--marked);color:inherit;border-bottom:2px solid currentColor;padding-bottom:.15em}.comes{background:var(--comes)}.goes{background:var(--goes)}\
.finding{background:var(--sheet);border:1px solid var(--line);border-left:6px solid var(--line);padding:.9rem 1.1rem;margin:0 0 1rem}\
.finding.error{border-left-color:var(--bad)}.finding.warning{border-left-color:var(--warn)}.finding.advice{border-left-color:var(--tip)}\
.finding h4{margin:0 0 .4rem;font-size:1rem;font-weight:600}.finding .weight{font-weight:700;margin-right:.4rem}\
.error .weight{color:var(--bad)}.warning .weight{color:var(--warn)}.advice .weight{color:var(--tip)}\
.finding .rule{font-weight:400;margin:0;color:var(--soft);font-size:.92rem}.finding dl{margin:.5rem 0}\
.finding dl{display:grid;grid-template-columns:4rem 1fr;gap:.25rem .6rem}.finding dt{color:var(--soft)}.finding dd{margin:0;min-width:0}\
.self{float:right;color:var(--soft);text-decoration:none;font-weight:400}\
.strip{display:flex;flex-wrap:wrap;gap:.2rem 1rem;list-style:none;padding:0;margin:0 0 1rem;color:var(--soft)}\
.strip .error{color:var(--bad);font-weight:700}.strip .warning{color:var(--warn);font-weight:700}.strip .advice{color:var(--tip);font-weight:700}.strip .fine span{color:var(--fine)}\
figure{margin:0 0 1rem}figure .scroll{background:var(--w-ground)}svg.w-way{display:block}\
details{margin:.5rem 0}summary{cursor:pointer;color:var(--link)}\
#facts th{width:26%}#facts .from{width:34%}.unknown{color:var(--soft);font-style:italic}.from{color:var(--soft)}\
.pair{display:grid;grid-template-columns:repeat(auto-fit,minmax(min(26rem,100%),1fr));gap:1rem}.pair>div{min-width:0}.pair h4{margin:.4rem 0 0;font-size:.95rem}\
footer{padding-block:2rem;color:var(--soft);font-size:.92rem}\
body:has(#no-error:checked) .finding.error,body:has(#no-warning:checked) .finding.warning,body:has(#no-advice:checked) .finding.advice{display:none}\
.switch input:checked+label{text-decoration:line-through;border-color:var(--line);box-shadow:none;font-weight:400;color:var(--soft)}\
@media(max-width:40rem){header,nav ul,main,footer{padding-inline:.8rem}h1{font-size:1.25rem}.finding dl{grid-template-columns:1fr}.finding dt{margin-top:.3rem}nav{position:static}}\
@media print{nav,.theme,.switch,.skip,.tip,.tip-none,.self{display:none}.grid{padding-bottom:0}body{background:#fff}.finding,figure{break-inside:avoid}.scroll,.code{overflow:visible}.code .row{white-space:pre-wrap;min-width:0}svg.w-way{max-width:100%;height:auto}details::details-content{content-visibility:visible;display:block}}";

/// The style sheet, with the drawings' own.
pub fn sheet() -> String {
    let (light, dark) = (format!("{LIGHT}{}", picture::LIGHT), format!("{DARK}{}", picture::DARK));
    format!(
        ":root{{color-scheme:light;{light}}}@media(prefers-color-scheme:dark){{:root{{color-scheme:dark;{dark}}}}}\
         :root:has(#light:checked){{color-scheme:light;{light}}}:root:has(#dark:checked){{color-scheme:dark;{dark}}}\
         {RULES}{}@media print{{:root,:root:has(#dark:checked){{color-scheme:light;{light}}}}}",
        picture::LOOK
    )
}
