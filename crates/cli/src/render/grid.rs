//! The grid of events and jobs.

use anstyle::Style;
use dulk_core::project::Project;
use dulk_core::rehearsal::{Occasion, OccasionKind};
use dulk_core::views::{CellKind, Grid, grid};
use unicode_width::UnicodeWidthStr;

use super::text::{BOLD, CYAN, DIM, GREEN, YELLOW, shown, wrap};
use crate::screen::{Screen, styled};

/// The column of names is no wider.
const NAME_LIMIT: usize = 34;
/// Between two columns.
const GAP: usize = 2;

/// Shows the grid, in as many blocks as the width asks for.
pub fn show(project: &Project<'_>, occasions: &[Occasion], now: i64, screen: &mut Screen) {
    let grid = grid(project, occasions, now);
    let names = grid.pipelines.iter().flat_map(|pipeline| pipeline.jobs.iter().map(|job| job.id.width() + 2).chain([0]));
    let name_width = names.max().unwrap_or(0).clamp(8, NAME_LIMIT);
    let heads: Vec<[String; 2]> = occasions.iter().map(head).collect();
    let widths: Vec<usize> = heads.iter().map(|[kind, name]| kind.width().max(name.width()).clamp(9, 18)).collect();
    let mut first = 0;
    while first < occasions.len() {
        let mut end = first;
        let mut used = name_width;
        while end < occasions.len() && (end == first || used + GAP + widths[end] <= screen.width) {
            used += GAP + widths[end];
            end += 1;
        }
        block(&grid, &Block { range: first..end, heads: &heads, widths: &widths, name_width }, screen);
        screen.line("");
        first = end;
    }
    if occasions.is_empty() {
        screen.line("No pipeline here names an event that can be played.");
        screen.line("");
    }
    for name in occasions.iter().filter_map(|occasion| occasion.unknown_branch(project.facts)) {
        if name != dulk_core::rehearsal::OTHER_BRANCH {
            screen.line(&format!("There is no branch {} here: nobody can push to it.", shown(name)));
        }
    }
    clocks(&grid, screen);
    legend(&grid, screen);
}

struct Block<'b> {
    range: std::ops::Range<usize>,
    heads: &'b [[String; 2]],
    widths: &'b [usize],
    name_width: usize,
}

/// Kind and name of an event.
pub fn head(occasion: &Occasion) -> [String; 2] {
    let name = shown(occasion.name.as_deref().unwrap_or_default());
    match occasion.kind {
        OccasionKind::Push => ["push to".into(), name],
        OccasionKind::Tag => ["tag".into(), name],
        OccasionKind::Pull => ["pull request".into(), format!("into {name}")],
        OccasionKind::Fork => ["from a fork".into(), format!("into {name}")],
        OccasionKind::Hand => ["by hand".into(), if name.is_empty() { name } else { format!("on {name}") }],
        OccasionKind::Clock => ["clock".into(), String::new()],
        OccasionKind::Release => ["release".into(), String::new()],
        OccasionKind::After => ["afterwards".into(), String::new()],
        OccasionKind::Outside | OccasionKind::OutsideTag | OccasionKind::OutsideProposal => ["from outside".into(), name],
    }
}

fn block(grid: &Grid, block: &Block<'_>, screen: &mut Screen) {
    for line in 0..2 {
        let mut text = " ".repeat(block.name_width);
        for column in block.range.clone() {
            text.push_str(&" ".repeat(GAP));
            text.push_str(&padded(&block.heads[column][line], block.widths[column], if line == 1 { BOLD } else { DIM }));
        }
        screen.line(text.trim_end());
    }
    for pipeline in &grid.pipelines {
        screen.line(&styled(BOLD, &shown(&pipeline.label)));
        for job in &pipeline.jobs {
            let name = format!("  {}", cut(&shown(&job.id), block.name_width.saturating_sub(2)));
            let mut text = format!("{name}{}", " ".repeat(block.name_width.saturating_sub(name.width())));
            for column in block.range.clone() {
                let kind = job.cells[column].kind();
                text.push_str(&" ".repeat(GAP));
                text.push_str(&padded(kind.word(), block.widths[column], style(kind)));
            }
            screen.line(text.trim_end());
        }
        if pipeline.jobs.is_empty() {
            screen.line(&styled(DIM, "  no job could be read"));
        }
    }
}

fn style(kind: CellKind) -> Style {
    match kind {
        CellKind::Publishes => GREEN,
        CellKind::Runs => CYAN,
        CellKind::Maybe | CellKind::ByHand => YELLOW,
        CellKind::Not => DIM,
    }
}

fn padded(text: &str, width: usize, style: Style) -> String {
    let text = cut(text, width);
    let padding = " ".repeat(width.saturating_sub(text.width()));
    if text.is_empty() { padding } else { format!("{}{padding}", styled(style, &text)) }
}

/// A text that fits, its middle left out where it is too long.
fn cut(text: &str, width: usize) -> String {
    let count = text.chars().count();
    if text.width() <= width || width < 4 {
        return text.to_owned();
    }
    let (start, end) = (width / 2, width - width / 2 - 1);
    let first: String = text.chars().take(start).collect();
    let last: String = text.chars().skip(count - end).collect();
    format!("{first}…{last}")
}

fn clocks(grid: &Grid, screen: &mut Screen) {
    for pipeline in &grid.pipelines {
        for (words, times) in &pipeline.clocks {
            let words = words.as_ref().map(|words| format!(" ({words})")).unwrap_or_default();
            let text = format!("The clock starts {} next on {} UTC{words}.", shown(&pipeline.label), times.join(", "));
            wrap(&text, screen.width).iter().for_each(|line| screen.line(line));
        }
    }
}

fn legend(grid: &Grid, screen: &mut Screen) {
    let cells = || grid.pipelines.iter().flat_map(|pipeline| &pipeline.jobs).flat_map(|job| &job.cells);
    let by_hand = cells().any(|cell| cell.kind() == CellKind::ByHand);
    for kind in CellKind::ALL.into_iter().filter(|kind| by_hand || *kind != CellKind::ByHand) {
        screen.line(&styled(DIM, &format!("{:<11}{}", kind.word(), kind.meaning())));
    }
    screen.hang("", &styled(DIM, "dulk when EVENT, such as dulk when push:main, says why, with the line that decides."));
}
