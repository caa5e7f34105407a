//! One event in detail.

use dulk_core::case::{Case, Published, secrets_of_job};
use dulk_core::finding::listed;
use dulk_core::project::Project;
use dulk_core::rehearsal::{Answer, Occasion, OccasionKind, Rehearsal, Verdict};
use dulk_core::text::Place;

use super::start_word;
use super::text::{BOLD, CYAN, DIM, GREEN, YELLOW, excerpt, place, shown, wrap};
use crate::screen::{Screen, styled};

/// Shows what an event starts, what it does not, and the lines that decide.
pub fn show(project: &Project<'_>, occasion: &Occasion, screen: &mut Screen) {
    let changed = match occasion.changed.as_deref() {
        Some(paths) => format!(", changing {}", listed(&paths.iter().map(|path| shown(path)).collect::<Vec<_>>())),
        None => String::new(),
    };
    screen.line(&format!("{}  {}{changed}", styled(BOLD, &shown(&occasion.written())), shown(&occasion.told())));
    screen.line("");
    let played = project.rehearse(occasion);
    let mut rows = project.standalone();
    // What happens comes first, and what does not after it.
    rows.sort_by_key(|index| std::cmp::Reverse(played[*index].starts.answer));
    for index in rows {
        pipeline(&project.case(index), occasion, &played[index], screen);
        screen.line("");
    }
}

fn pipeline(case: &Case<'_>, occasion: &Occasion, rehearsal: &Rehearsal, screen: &mut Screen) {
    let path = shown(&case.sources.get(case.pipeline.file).path);
    let style = match rehearsal.starts.answer {
        Answer::Yes => GREEN,
        Answer::Unsure => YELLOW,
        Answer::No => DIM,
    };
    let word = start_word(rehearsal.starts.answer);
    say(&format!("{} {}", styled(BOLD, &path), styled(style, word)), &rehearsal.starts, 0, screen);
    decided(case, rehearsal.starts.at, 4, screen);
    if rehearsal.starts.answer == Answer::No {
        return;
    }
    for (job, verdict) in rehearsal.jobs.iter().enumerate() {
        let style = match verdict.answer {
            Answer::Yes => CYAN,
            Answer::Unsure => YELLOW,
            Answer::No => DIM,
        };
        let legs = case.pipeline.jobs[job].matrix.as_ref().and_then(|matrix| matrix.legs).filter(|legs| *legs > 1);
        let legs = legs.map(|legs| format!(" {legs} times, once for each leg of its matrix")).unwrap_or_default();
        let name = shown(&case.pipeline.jobs[job].id.value);
        say(&format!("{} {}{legs}", styled(BOLD, &name), styled(style, verdict.of_job())), verdict, 2, screen);
        if verdict.answer != Answer::Yes {
            decided(case, verdict.at, 6, screen);
        }
        if verdict.answer > Answer::No {
            publishes(case, job, rehearsal, screen);
            withheld(case, job, occasion, screen);
        }
    }
}

fn say(start: &str, verdict: &Verdict, indent: usize, screen: &mut Screen) {
    let because = if verdict.because.is_empty() { String::new() } else { format!(": {}", shown(&verdict.because)) };
    screen.hang(&" ".repeat(indent), &format!("{start}{because}"));
}

/// The line that decided.
fn decided(case: &Case<'_>, at: Option<Place>, indent: usize, screen: &mut Screen) {
    let Some(at) = at else { return };
    let place = place(at, case.sources);
    let room = screen.width.saturating_sub(indent + place.len() + 3);
    screen.line(&format!("{}{}   {}", " ".repeat(indent), styled(DIM, &place), excerpt(at, case.sources, room)));
}

fn publishes(case: &Case<'_>, job: usize, rehearsal: &Rehearsal, screen: &mut Screen) {
    for published in case.publishes().into_iter().filter(|published| published.job == job) {
        for line in published_line(case, &published, rehearsal)
            .iter()
            .flat_map(|text| wrap(text, screen.width.saturating_sub(6)))
            .collect::<Vec<_>>()
        {
            screen.line(&format!("      {}", styled(GREEN, &line)));
        }
    }
}

/// What a pipeline puts online, each in one line.
pub fn published_lines(case: &Case<'_>, rehearsal: &Rehearsal) -> Vec<String> {
    case.publishes().iter().filter_map(|published| published_line(case, published, rehearsal)).collect()
}

fn published_line(case: &Case<'_>, published: &Published<'_>, rehearsal: &Rehearsal) -> Option<String> {
    let what = match (published.folder, case.artifact_of(published)) {
        (Some(folder), _) => format!("the folder {}", shown(&folder.written)),
        (None, Some(artifact)) => format!("the artifact {}", shown(artifact)),
        (None, None) => "the site".to_owned(),
    };
    let place = published.place.map_or_else(
        || format!("{} (where exactly is not known)", published.target),
        |place| place.replacen("branch ", "the branch ", 1),
    );
    let verb = match case.happens(published, rehearsal) {
        Answer::Yes => "publishes",
        Answer::Unsure => "may publish",
        Answer::No => return None,
    };
    Some(format!("{verb} {what} to {}", shown(&place)))
}

/// What a fork's pull request does not get.
fn withheld(case: &Case<'_>, job: usize, occasion: &Occasion, screen: &mut Screen) {
    if occasion.kind != OccasionKind::Fork {
        return;
    }
    let secrets = secrets_of_job(case, job);
    let text = match secrets.as_slice() {
        [] => "its token may only read".to_owned(),
        names => format!("its token may only read, and {} {} empty", listed(names), if names.len() == 1 { "is" } else { "are" }),
    };
    for line in wrap(&shown(&text), screen.width.saturating_sub(6)) {
        screen.line(&format!("      {}", styled(YELLOW, &line)));
    }
}
