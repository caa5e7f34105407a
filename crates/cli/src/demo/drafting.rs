//! The demo's part in which a repository without a pipeline gets one.

use dulk_core::draft::choose;
use dulk_core::formats;
use dulk_core::knowledge::Date;
use dulk_core::views::ways;
use dulk_gather::create;
use dulk_snapshot::Snapshot;

use super::{BOLD, HEALTHY, lay_out};
use crate::Outcome;
use crate::checked::Checked;
use crate::draft::seen;
use crate::render::text;
use crate::screen::{Screen, styled};

/// Shows what is seen of the demo without its pipelines, drafts one, and looks at that.
///
/// # Errors
/// When the folder cannot be written.
pub fn run(today: Date, screen: &mut Screen) -> anyhow::Result<Outcome> {
    let folder = tempfile::tempdir()?;
    let root = folder.path().join("timetable");
    let files: Vec<(&str, &str)> = HEALTHY.iter().copied().filter(|(path, _)| !formats::is_read(path)).collect();
    lay_out(&root, &files)?;
    let snapshot = Snapshot::of_disk(&root, &[], Some(today))?;
    screen.line(&format!("{}  The timetable site of the Tarnsay ferry, without a pipeline:", styled(BOLD, "dulk")));
    screen.line("");
    seen(&snapshot, screen);
    let facts = &snapshot.repository().facts;
    let drafted = choose(facts, None, None)?.draft(facts, snapshot.sources())?;
    create(&root, &drafted.path, &drafted.text).map_err(anyhow::Error::msg)?;
    let lines = drafted.text.lines().count();
    screen.line("");
    screen.line(&format!("{}  {} is written, {lines} lines. It begins so:", styled(BOLD, "dulk draft --write"), drafted.path));
    screen.line("");
    drafted.text.lines().take_while(|line| !line.is_empty()).for_each(|line| screen.line(&format!("  {line}")));
    screen.line("");
    let checked = Checked::kept(&root, today)?;
    let project = checked.snapshot.project();
    screen.line(&format!("{}  What it does, from the sources to the address:", styled(BOLD, "dulk trail")));
    screen.line("");
    crate::trail::show(&project, &ways(&project), screen);
    screen.line(&format!("{}  And what is wrong with it:", styled(BOLD, "dulk check --fail-on advice")));
    screen.line("");
    text::show(&checked, screen);
    Ok(Outcome::Clean)
}
