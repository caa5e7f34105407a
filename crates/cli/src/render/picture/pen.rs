//! The small things that a drawing is made of: words, signs, marks, lines with corners, and how they look.

use std::fmt::Write;

use dulk_core::views::{NeedKind, StopKind};
use maud::{Markup, PreEscaped, html};

use super::job::Reach;
use super::measure::{Fitted, Size};

/// Colours by their use, on light paper.
pub const LIGHT: &str = "--w-ground:#f6f4ee;--w-box:#fffefb;--w-flag:#e4ebee;--w-ink:#16303f;--w-soft:#51646f;--w-edge:#8da0aa;\
    --w-flow:#0c6f80;--w-bad:#a61b12;--w-bad-box:#fdf0ee;--w-unsure:#7d5200;--w-fine:#226a3c;--w-fine-box:#e9f4ec;--w-lost:#9aa7ad;";
/// The same on dark paper.
pub const DARK: &str = "--w-ground:#0f1b23;--w-box:#182833;--w-flag:#22394a;--w-ink:#e4edf1;--w-soft:#a9bac4;--w-edge:#5a7382;\
    --w-flow:#58c3d1;--w-bad:#ff8f80;--w-bad-box:#3a2021;--w-unsure:#e6b45a;--w-fine:#7ed29a;--w-fine-box:#17301f;--w-lost:#62757f;";
/// How everything looks, by the colours.
pub const LOOK: &str = "\
.w-way text{font:12.5px ui-monospace,'DejaVu Sans Mono','Liberation Mono',Menlo,Consolas,monospace;fill:var(--w-ink)}\
.w-way .w-name{font-size:14px;font-weight:bold}.w-way .w-title{font-size:14px;font-weight:bold}\
.w-way .w-strong{font-weight:bold}.w-way .w-word,.w-way .w-mark-name,.w-way .w-rule,.w-way .w-broken{font-size:11px;fill:var(--w-soft)}\
.w-way .w-bad-word,.w-way .w-rule{fill:var(--w-bad);font-weight:bold}.w-way .w-broken{fill:var(--w-ink)}\
.w-way .w-unsure-word{font-size:11px;fill:var(--w-unsure)}\
.w-ground{fill:var(--w-ground)}\
.w-box{fill:var(--w-box);stroke:var(--w-edge);stroke-width:1.2}.w-flag{fill:var(--w-flag)}\
.w-bad-job .w-box{stroke:var(--w-bad);stroke-width:2}\
.w-way path{fill:none;stroke-linejoin:round;stroke-linecap:round}.w-way path.w-flag{fill:var(--w-flag)}\
.w-way .w-sure{stroke:var(--w-flow);stroke-width:2.4}\
.w-way .w-perhaps{stroke:var(--w-unsure);stroke-width:2;stroke-dasharray:7 5}\
.w-way .w-lost{stroke:var(--w-lost);stroke-width:1.4;stroke-dasharray:1 5}\
.w-way .w-wait{stroke:var(--w-edge);stroke-width:1.2}\
.w-way .w-tip-sure{fill:var(--w-flow)}.w-way .w-tip-perhaps{fill:var(--w-unsure)}.w-way .w-tip-lost{fill:var(--w-lost)}\
.w-way .w-tip-wait{fill:var(--w-edge)}\
.w-sign circle{fill:var(--w-box);stroke:var(--w-flow);stroke-width:1.6}.w-sign path{stroke:var(--w-flow);stroke-width:1.5}\
.w-unsure circle{stroke:var(--w-unsure);stroke-dasharray:3 2.5}.w-unsure path{stroke:var(--w-unsure)}\
.w-gone circle{stroke:var(--w-lost)}.w-gone path{stroke:var(--w-lost)}\
.w-way .w-stop{stroke:var(--w-bad);stroke-width:3.4}\
.w-mark path{stroke:var(--w-soft);stroke-width:1.2}.w-mark circle{fill:none;stroke:var(--w-soft);stroke-width:1.2}\
.w-way path.w-tag{fill:var(--w-box);stroke:var(--w-flow);stroke-width:1.6}\
.w-way path.w-tag-perhaps{stroke:var(--w-unsure);stroke-dasharray:7 5}.w-way path.w-tag-lost{stroke:var(--w-lost);stroke-dasharray:2 4}\
.w-hole{fill:var(--w-ground);stroke:var(--w-edge)}\
.w-way path.w-end{fill:var(--w-fine-box);stroke:var(--w-fine);stroke-width:2}\
.w-way path.w-end-bad{fill:var(--w-bad-box);stroke:var(--w-bad);stroke-dasharray:6 5}\
.w-way path.w-end-unsure{fill:var(--w-box);stroke:var(--w-unsure);stroke-dasharray:6 5}\
.w-way path.w-source{fill:var(--w-box);stroke:var(--w-edge);stroke-width:1.2}";

/// Words in lines under each other, their top left corner there; the whole text comes with them where they were shortened.
pub fn words(fitted: &Fitted, size: Size, style: &str, x: i32, y: i32) -> Markup {
    let baseline = y + size.leading() - 4;
    html! {
        text class=(style) x=(x) y=(baseline) xml:space="preserve" {
            @if let Some(whole) = &fitted.whole { (told(whole)) }
            @for (number, line) in fitted.lines.iter().enumerate() {
                tspan x=(x) dy=(if number == 0 { 0 } else { size.leading() }) { (line) }
            }
        }
    }
}

/// What is told of a part when a pointer rests on it.
pub fn told(text: &str) -> Markup {
    html! { title { (text) } }
}

/// The sign of a place where the way breaks, round its middle.
pub fn broken_sign() -> Markup {
    html! { path.w-stop d="M-7 -7L7 7M-7 7L7 -7" {} }
}

/// The sign of a stop, round its middle.
pub fn glyph_of(kind: StopKind, reach: Reach) -> Markup {
    if reach == Reach::Broken {
        return broken_sign();
    }
    if reach == Reach::Perhaps {
        return html! { circle r="9" {} path d="M-2.6 -2.2c0 -4 5.4 -3.4 5.2 -.2c-.2 2 -2.6 2 -2.6 4.2M0 4.8v.2" {} };
    }
    let shape = match kind {
        StopKind::Sources => "M-3.5 -4.5h5l2 2v7h-7zM-1.5 -1h3M-1.5 1.8h3",
        StopKind::Install => "M0 -5v6M-2.6 -1.4L0 1.2L2.6 -1.4M-4.5 1.5v3h9v-3",
        StopKind::Build => "M-4.5 4.5v-5l3 2v-2l3 2v-4h3v7z",
        StopKind::Move => "M-5 -2h8M.8 -4.4L3.4 -2L.8 .4M5 2.6h-8",
        StopKind::HandOn => "M-4.5 -3.5v7h4M-1 0h6M2.6 -2.4L5 0L2.6 2.4",
        StopKind::Fetch => "M4.5 -3.5v7h-4M-5 0h6M-1.4 -2.4L1 0L-1.4 2.4",
        StopKind::Publish => "M0 5v-9M-3.2 -1.2L0 -4.4L3.2 -1.2M-4 5h8",
        StopKind::Step => "M-3 0h6",
    };
    html! { circle r="9" {} path d=(shape) {} }
}

/// The small mark of what a step needs.
pub fn mark_of(kind: NeedKind) -> Markup {
    match kind {
        NeedKind::Secret => html! { circle cx="-2.4" r="2.4" {} path d="M0 0h5.4M3 0v2.4M5.4 0v2" {} },
        NeedKind::Cache => html! { path d="M-4.5 -4h9v3h-9zM-4.5 -1h9v4.6h-9zM-1.2 1h2.4" {} },
        NeedKind::Permission => html! { path d="M-4 -.6h8v5h-8zM-2.4 -.6v-1.6a2.4 2.4 0 0 1 4.8 0v1.6" {} },
    }
}

/// A line through points, its corners rounded.
pub fn path(points: &[(i32, i32)]) -> String {
    /// In pixels.
    const CORNER: i32 = 6;
    let mut drawn = String::new();
    let toward = |from: i32, to: i32, by: i32| from + (to - from).signum() * by.min((to - from).abs() / 2);
    for (number, (x, y)) in points.iter().enumerate() {
        let next = points.get(number + 1);
        let before = number.checked_sub(1).and_then(|before| points.get(before));
        let _ = match (before, next) {
            (None, _) => write!(drawn, "M{x} {y}"),
            (_, None) => write!(drawn, "L{x} {y}"),
            (Some((px, py)), Some((nx, ny))) => {
                let (ax, ay) = (toward(*x, *px, CORNER), toward(*y, *py, CORNER));
                let (bx, by) = (toward(*x, *nx, CORNER), toward(*y, *ny, CORNER));
                write!(drawn, "L{ax} {ay}Q{x} {y} {bx} {by}")
            }
        };
    }
    drawn
}

/// The style sheet of a drawing that stands alone.
pub fn style_alone() -> Markup {
    html! { style { (PreEscaped(format!(".w-way{{{LIGHT}}}@media(prefers-color-scheme:dark){{.w-way{{{DARK}}}}}{LOOK}"))) } }
}
