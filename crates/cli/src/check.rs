//! `dulk check`.

use std::path::PathBuf;

use dulk_core::finding::WitnessSource;
use dulk_core::knowledge::Date;
use dulk_core::text::FileId;
use dulk_gather::{changed_lines, has_commit, places};

use crate::Outcome;
use crate::args::{CheckFormat, CheckOptions};
use crate::checked::Checked;
use crate::render::text::wrap;
use crate::render::{json, junit, sarif, text};
use crate::screen::Screen;
use crate::{draft, output};

/// Runs the command.
///
/// # Errors
/// When a path does not exist or dulk.toml is wrong.
pub fn run(options: &CheckOptions, paths: &[PathBuf], today: Date, screen: &mut Screen) -> anyhow::Result<Outcome> {
    let start = std::env::current_dir()?;
    let patience = Patience::begin();
    let mut checked = Checked::of(&start, paths, today)?;
    drop(patience);
    if let Some(revision) = &options.since {
        // Also where nothing was found: a name with a slip in it never becomes a clean check.
        has_commit(&start, revision).map_err(anyhow::Error::msg)?;
        only_since(&mut checked, revision)?;
    }
    match options.format {
        CheckFormat::Text if checked.files.is_empty() => nothing_to_check(&checked, paths, screen),
        CheckFormat::Text => text::show(&checked, screen),
        CheckFormat::Json => json::show(&checked, screen)?,
        CheckFormat::Sarif => screen.data(&sarif::log(&checked)?),
        CheckFormat::Junit => screen.data(&junit::report(&checked)),
    }
    if let Some(file) = &options.output {
        let text = screen.take_plain();
        output::write(&start, file, &text)?;
    }
    let found = checked.worst().is_some_and(|worst| worst >= options.fail_on.severity());
    // The process ends here; giving back what thousands of files hold, piece by piece, would only take time.
    std::mem::forget(checked);
    Ok(if found { Outcome::Found } else { Outcome::Clean })
}

/// Says on a terminal that a long check is still going on.
struct Patience {
    done: std::sync::mpsc::Sender<()>,
}

impl Patience {
    /// The words come after this long.
    const WAIT: std::time::Duration = std::time::Duration::from_secs(1);

    /// Starts to wait; dropping it ends the waiting.
    fn begin() -> Option<Self> {
        if !std::io::IsTerminal::is_terminal(&std::io::stderr()) {
            return None;
        }
        let (done, waits) = std::sync::mpsc::channel::<()>();
        std::thread::spawn(move || {
            if waits.recv_timeout(Self::WAIT) == Err(std::sync::mpsc::RecvTimeoutError::Timeout) {
                crate::screen::complain("still reading and checking; a repository with many pipeline files takes a moment");
            }
        });
        Some(Self { done })
    }
}

impl Drop for Patience {
    fn drop(&mut self) {
        // The waiting thread may have spoken and gone already.
        let _ = self.done.send(());
    }
}

/// Leaves what stands on changed lines, or what a witness on one speaks of.
fn only_since(checked: &mut Checked, revision: &str) -> anyhow::Result<()> {
    let (sources, root) = (checked.snapshot.sources(), checked.snapshot.repository().root.as_path());
    let mut changed: std::collections::BTreeMap<FileId, Option<Vec<(u32, u32)>>> = std::collections::BTreeMap::new();
    for file in &mut checked.files {
        let mut findings = std::mem::take(&mut file.findings);
        let mut failed = None;
        findings.retain(|finding| {
            let places = std::iter::once(finding.at).chain(finding.witnesses.iter().filter_map(|witness| match witness.source {
                WitnessSource::At(at) => Some(at),
                _ => None,
            }));
            places.into_iter().any(|at| {
                let lines = changed.entry(at.file).or_insert_with(|| {
                    let source = sources.get(at.file);
                    match changed_lines(root, revision, &source.path, &source.text) {
                        Ok(lines) => lines,
                        Err(reason) => {
                            failed = Some(reason);
                            None
                        }
                    }
                });
                let range = sources.get(at.file).range(at.span);
                // A file that is new is changed as a whole.
                lines
                    .as_ref()
                    .is_none_or(|lines| lines.iter().any(|(from, to)| range.start.line <= *to && range.end.line >= *from))
            })
        });
        if let Some(reason) = failed {
            anyhow::bail!(reason);
        }
        file.findings = findings;
    }
    Ok(())
}

fn nothing_to_check(checked: &Checked, paths: &[PathBuf], screen: &mut Screen) {
    let within = match paths {
        [] => "here".to_owned(),
        _ => format!("in {}", paths.iter().map(|path| path.display().to_string()).collect::<Vec<_>>().join(", ")),
    };
    screen.line(&format!("No pipeline file found {within}, so nothing was checked."));
    screen.line("Looked for:");
    for place in places() {
        for (number, line) in wrap(&place, screen.width.saturating_sub(4)).iter().enumerate() {
            screen.line(&format!("{}{line}", if number == 0 { "  " } else { "    " }));
        }
    }
    if paths.is_empty() {
        draft::offer(&checked.snapshot, screen);
    }
}
