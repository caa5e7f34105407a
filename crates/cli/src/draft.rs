//! `dulk draft`, and the offer of it where there is nothing to check.

use anstyle::Style;
use dulk_core::draft::{Chosen, Draft, choose};
use dulk_core::finding::Finding;
use dulk_core::knowledge::Date;
use dulk_core::views::facts::{FactLine, Group};
use dulk_gather::{Unsaved, create};
use dulk_snapshot::Snapshot;

use crate::Outcome;
use crate::args::DraftOptions;
use crate::facts::{lines_of, name_width, show_line};
use crate::render::text::shown;
use crate::screen::{Screen, complain, styled};

const BOLD: Style = Style::new().bold();

/// Runs the command.
///
/// # Errors
/// When nothing can be drafted, the file is there already, or it cannot be written.
pub fn run(options: &DraftOptions, today: Date, screen: &mut Screen) -> anyhow::Result<Outcome> {
    let snapshot = Snapshot::of_disk(&std::env::current_dir()?, &[], None)?;
    let facts = &snapshot.repository().facts;
    let chosen = choose(facts, options.format.as_deref(), options.host.as_deref())?;
    let drafted = chosen.draft(facts, snapshot.sources())?;
    let path = shown(&drafted.path);
    if options.write {
        let root = &snapshot.repository().root;
        create(root, &drafted.path, &drafted.text).map_err(|why| anyhow::anyhow!("{path} cannot be written: {why}"))?;
        screen.line(&format!("{} is written.", styled(BOLD, &path)));
        reasons(&chosen).iter().for_each(|reason| screen.hang("", &shown(reason)));
        screen.hang("", "Its first lines say what to do before the first push. Then look at it: dulk");
    } else {
        screen.data(drafted.text.trim_end_matches('\n'));
        // The file comes first, then what is said of it.
        screen.flush()?;
        complain(&format!("this belongs into {path}; dulk draft --write puts it there"));
        reasons(&chosen).iter().for_each(|reason| complain(reason));
    }
    // What the repository itself lacks is said of the draft as well.
    for finding in findings(&snapshot, &drafted, today)? {
        complain(&format!("dulk check will say of it: {} ({})", finding.message, finding.rule));
    }
    Ok(Outcome::Clean)
}

/// Why this format and this host, where nobody asked for them.
fn reasons(chosen: &Chosen) -> Vec<String> {
    let format = chosen.format_because.as_ref().map(|why| format!("Of the format {}: {why}.", chosen.format.id()));
    let host = chosen.host_because.as_ref().map(|why| format!("To {} ({}): {why}.", chosen.host.name, chosen.host.id));
    format.into_iter().chain(host).collect()
}

/// What a check will find in the draft, once it is in its place.
fn findings(snapshot: &Snapshot, drafted: &Draft, today: Date) -> anyhow::Result<Vec<Finding>> {
    let unsaved = Unsaved::from([(drafted.path.clone(), drafted.text.clone())]);
    let root = &snapshot.repository().root;
    let with_it = Snapshot::of_texts(root, &[], unsaved, Some(today))?;
    let all = with_it.check_once().into_iter().flat_map(|file| file.findings);
    Ok(all.filter(|finding| with_it.sources().get(finding.at.file).path == drafted.path).collect())
}

/// What tells how the site of a repository is made, and where it goes.
pub fn seen(snapshot: &Snapshot, screen: &mut Screen) {
    let tells = |line: &FactLine| matches!(line.group, Group::Site | Group::Hosting) && line.value.is_some();
    let lines: Vec<FactLine> = lines_of(snapshot).into_iter().filter(tells).collect();
    if lines.is_empty() {
        screen.line("Nothing here tells what makes the site, or where it goes.");
    } else {
        screen.line("Seen here:");
        let width = name_width(&lines);
        lines.iter().for_each(|line| show_line(line, width, screen));
    }
}

/// What is seen of a repository that has no pipeline, and what could be drafted for it.
pub fn offer(snapshot: &Snapshot, screen: &mut Screen) {
    screen.line("");
    seen(snapshot, screen);
    screen.line("");
    let facts = &snapshot.repository().facts;
    let drafted = choose(facts, None, None).and_then(|chosen| chosen.draft(facts, snapshot.sources()).map(|_| chosen));
    match drafted {
        Ok(chosen) => {
            let what = format!(
                "shows a pipeline for it ({}, to {}); --write puts it in place, --for another format, --to another host.",
                shown(&chosen.path),
                chosen.host.name
            );
            screen.hang(&format!("{} ", styled(BOLD, "dulk draft")), &what);
        }
        Err(why) => screen.hang("", &format!("dulk draft could write one, but not yet: {}.", shown(&why.to_string()))),
    }
}
