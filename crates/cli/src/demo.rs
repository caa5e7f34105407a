//! `dulk demo`: the tour on a small repository that ships inside the program.

mod asking;
mod drafting;

use std::fs;
use std::path::{Path, PathBuf};

use anstyle::Style;
use anyhow::Context;
use dulk_core::knowledge::Date;
use dulk_core::project::columns;
use dulk_core::views::ways;
use dulk_gather::demo_repository;
use dulk_snapshot::Snapshot;

use crate::Outcome;
use crate::checked::Checked;
use crate::render::{grid, text};
use crate::screen::{Screen, styled};

pub use drafting::run as draft;

include!(concat!(env!("OUT_DIR"), "/demo.rs"));

const BOLD: Style = Style::new().bold();

/// Lays the demo out and runs the tour, or the part of it in which a forge is asked.
///
/// # Errors
/// When the folder cannot be written, or `keep` exists already.
pub fn run(keep: Option<PathBuf>, ask: bool, today: Date, screen: &mut Screen) -> anyhow::Result<Outcome> {
    if ask {
        return asking::run(today, screen);
    }
    let temporary = tempfile::tempdir().context("no temporary folder can be made")?;
    let folder = match &keep {
        Some(folder) => {
            fs::create_dir(folder).with_context(|| format!("{} cannot be made", folder.display()))?;
            folder.as_path()
        }
        None => temporary.path(),
    };
    screen.hang(
        "",
        "The timetable site of the Tarnsay ferry, a small island's boat: a page built with vite and published by pipeline files of one format \
         or another. The demo holds it as git repositories: in order, and with the kind of faults that creep in when a pipeline is copied and \
         adapted by hand.",
    );
    for (name, files, before) in [
        ("healthy", HEALTHY, "First the copy that is in order. Dulk has nothing to say, and the strips show what it looked at:"),
        (
            "faulty",
            FAULTY,
            "Now the copy with a dozen faults. Each finding shows what the file says, what speaks against it, and what to do:",
        ),
        ("healthy_gitlab", HEALTHY_GITLAB, "The same site with the other format, .gitlab-ci.yml, in order:"),
        ("faulty_gitlab", FAULTY_GITLAB, "And that one with a dozen faults of its own:"),
        ("other_formats", OTHER_FORMATS, "The other formats that Dulk reads, each in order:"),
    ] {
        let root = folder.join(name);
        lay_out(&root, files)?;
        screen.line("");
        screen.hang("", &format!("{}  {before}", styled(BOLD, &format!("dulk check   ({name})"))));
        screen.line("");
        text::show(&Checked::of(&root, &[], today)?, screen);
    }
    let root = folder.join("faulty");
    let snapshot = Snapshot::of_disk(&root, &[], Some(today))?;
    let project = snapshot.project();
    screen.line("");
    screen.line(&format!("{}  What starts on which event:", styled(BOLD, "dulk when   (faulty)")));
    screen.line("");
    grid::show(&project, &columns(&project), 1_764_028_800, screen);
    screen.line("");
    screen.line(&format!("{}  The way of the site, and where it breaks:", styled(BOLD, "dulk trail   (faulty)")));
    screen.line("");
    crate::trail::show(&project, &ways(&project), screen);
    screen.line("");
    match keep {
        Some(folder) => screen.line(&format!("The copies are kept in {}. Go into one and type dulk.", folder.display())),
        None => screen.hang("", "The copies are gone again; dulk demo --keep FOLDER leaves them for you to try things on."),
    }
    Ok(Outcome::Clean)
}

fn lay_out(root: &Path, files: &[(&str, &str)]) -> anyhow::Result<()> {
    for (name, text) in files {
        let path = root.join(name);
        let parent = path.parent().unwrap_or(root);
        fs::create_dir_all(parent).with_context(|| format!("{} cannot be made", parent.display()))?;
        fs::write(&path, text).with_context(|| format!("{} cannot be written", path.display()))?;
    }
    demo_repository(root, files).map_err(|error| anyhow::anyhow!("the demo's git repository cannot be made: {error}"))
}
