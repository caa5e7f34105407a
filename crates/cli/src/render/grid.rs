//! The grid of events and jobs.

use anstyle::Style;
use dulk_core::project::Project;
use dulk_core::rehearsal::{Answer, Occasion, OccasionKind, Rehearsal, Verdict, clock_words, next_times, read_clock};
use unicode_width::UnicodeWidthStr;

use super::text::{BOLD, CYAN, DIM, GREEN, YELLOW, shown, wrap};
use crate::screen::{Screen, styled};

/// The column of names is no wider.
const NAME_LIMIT: usize = 34;
/// Between two columns.
const GAP: usize = 2;

/// Shows the grid, in as many blocks as the width asks for.
pub fn show(project: &Project<'_>, occasions: &[Occasion], now: i64, screen: &mut Screen) {
    let played: Vec<Vec<Rehearsal>> = occasions.iter().map(|occasion| project.rehearse(occasion)).collect();
    let rows = project.standalone();
    let names = rows.iter().flat_map(|index| {
        let jobs = project.prepared[*index].pipeline.jobs.iter().map(|job| job.id.value.width() + 2);
        jobs.chain([0])
    });
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
        block(project, &rows, &Block { range: first..end, heads: &heads, widths: &widths, played: &played, name_width }, screen);
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
    clocks(project, &rows, now, screen);
    let by_hand = played.iter().flatten().flat_map(|rehearsal| &rehearsal.jobs).any(Verdict::is_by_hand);
    legend(by_hand, screen);
}

struct Block<'b> {
    range: std::ops::Range<usize>,
    heads: &'b [[String; 2]],
    widths: &'b [usize],
    played: &'b [Vec<Rehearsal>],
    name_width: usize,
}

fn head(occasion: &Occasion) -> [String; 2] {
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

fn block(project: &Project<'_>, rows: &[usize], block: &Block<'_>, screen: &mut Screen) {
    for line in 0..2 {
        let mut text = " ".repeat(block.name_width);
        for column in block.range.clone() {
            text.push_str(&" ".repeat(GAP));
            text.push_str(&padded(&block.heads[column][line], block.widths[column], if line == 1 { BOLD } else { DIM }));
        }
        screen.line(text.trim_end());
    }
    for index in rows {
        screen.line(&styled(BOLD, &shown(&project.label(*index))));
        let case = project.case(*index);
        let publishes = case.publishes();
        for (job, of_job) in case.pipeline.jobs.iter().enumerate() {
            let name = format!("  {}", cut(&shown(&of_job.id.value), block.name_width.saturating_sub(2)));
            let mut text = format!("{name}{}", " ".repeat(block.name_width.saturating_sub(name.width())));
            for column in block.range.clone() {
                let rehearsal = &block.played[column][*index];
                let own = publishes.iter().filter(|published| published.job == job);
                let puts_online = own.map(|published| case.happens(published, rehearsal)).max().unwrap_or(Answer::No);
                let verdict = rehearsal.jobs.get(job);
                let answer = verdict.map_or(Answer::Unsure, |verdict| verdict.answer);
                let (word, style) = match verdict.is_some_and(Verdict::is_by_hand) {
                    true => ("by hand", YELLOW),
                    false => word(answer, puts_online),
                };
                text.push_str(&" ".repeat(GAP));
                text.push_str(&padded(word, block.widths[column], style));
            }
            screen.line(text.trim_end());
        }
        if case.pipeline.jobs.is_empty() {
            screen.line(&styled(DIM, "  no job could be read"));
        }
    }
}

fn word(answer: Answer, puts_online: Answer) -> (&'static str, Style) {
    match (answer, puts_online) {
        (Answer::Yes, Answer::Yes) => ("publishes", GREEN),
        (Answer::Yes, _) => ("runs", CYAN),
        (Answer::Unsure, _) => ("maybe", YELLOW),
        (Answer::No, _) => ("–", DIM),
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

fn clocks(project: &Project<'_>, rows: &[usize], now: i64, screen: &mut Screen) {
    for index in rows {
        let pipeline = &project.prepared[*index].pipeline;
        for written in pipeline.triggers.iter().flat_map(|trigger| &trigger.times) {
            let Some(time) = written.known().and_then(|text| read_clock(text).ok()) else { continue };
            let words = clock_words(&written.value).map(|words| format!(" ({words})")).unwrap_or_default();
            let times = next_times(&time, now, 3).join(", ");
            let text = format!("The clock starts {} next on {times} UTC{words}.", shown(&project.label(*index)));
            wrap(&text, screen.width).iter().for_each(|line| screen.line(line));
        }
    }
}

fn legend(by_hand: bool, screen: &mut Screen) {
    let words = [
        ("publishes", "runs and puts the site online"),
        ("runs", "runs, everything before it taken to succeed"),
        ("maybe", "only known when it runs"),
        ("by hand", "waits for someone who starts it"),
        ("–", "does not run"),
    ];
    for (word, words) in words.into_iter().filter(|(word, _)| by_hand || *word != "by hand") {
        screen.line(&styled(DIM, &format!("{word:<11}{words}")));
    }
    screen.line(&styled(DIM, "dulk when EVENT, such as dulk when push:main, says why, with the line that decides."));
}
