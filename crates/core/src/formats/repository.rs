//! Which files of a repository are pipelines, and of which format.

use std::collections::HashSet;

use super::{Claim, Format, PipelineFile, Programs, Spot, Wanted, all, claim, is_read, named};
use crate::carrier::Copies;
use crate::facts::{FileList, Settings, Shelf};
use crate::text::{Place, SourceFile, Sources};

/// Files that one file is made of, and those that they are made of; more are no honest pipeline.
const PARTS_LIMIT: usize = 60;
/// More parts that pipelines run, or files under slipped names, than this are not looked at.
const BESIDE_LIMIT: usize = 64;
/// So much of a file is looked at where its name says nothing for sure: what people write above it may be long.
const HEAD_BYTES: usize = 4_096;
/// More build files than this are not followed from pipelines.
const RUN_LIMIT: usize = 200;

/// Which pipeline files are asked for.
#[derive(Clone, Copy, Debug)]
pub enum AskedFor<'a> {
    /// All.
    Everything,
    /// These files, and those that forges read below these folders, which end with a slash or are empty.
    Only {
        /// Paths of files.
        files: &'a [String],
        /// Paths of folders.
        folders: &'a [String],
    },
}

/// Why the pipeline files cannot be told.
#[derive(Clone, Debug, PartialEq, Eq)]
pub enum FilesError {
    /// A file is asked for that no format claims.
    Unclaimed {
        /// Its path.
        path: String,
        /// Why, in plain words.
        reason: String,
    },
    /// dulk.toml names a file that is none, or that says itself what starts it.
    Settings {
        /// In dulk.toml.
        at: Place,
        /// In plain words.
        reason: String,
    },
}

/// The pipeline files of a repository in the order of their paths; `skips` says which are left out unless they are asked for by name,
/// `settings` what starts those that do not say so themselves.
///
/// # Errors
/// When a file is asked for by name that no format claims, or dulk.toml says what starts a file that is no such pipeline.
pub fn pipeline_files(
    shelf: &dyn Shelf,
    files: Option<&FileList>,
    asked: AskedFor<'_>,
    (settings, skips): (&Settings, &dyn Fn(&str) -> bool),
    sources: &mut Sources,
) -> Result<Vec<PipelineFile>, FilesError> {
    let declared = declared(shelf, settings)?;
    let mut names: Vec<(String, &'static dyn Format)> = Vec::new();
    match asked {
        AskedFor::Everything => {
            names.extend(usual(shelf));
            names.extend(files.map(|files| beside(shelf, files)).unwrap_or_default());
            names.extend(declared);
            names.retain(|(name, _)| !skips(name));
        }
        AskedFor::Only { files, folders } => {
            let below = |name: &str| folders.iter().any(|folder| name.starts_with(folder.as_str()));
            names.extend(usual(shelf).into_iter().chain(declared).filter(|(name, _)| below(name) && !skips(name)));
            for path in files {
                let unclaimed = |reason| FilesError::Unclaimed { path: path.clone(), reason };
                names.push((path.clone(), format_of(shelf, path).map_err(unclaimed)?));
            }
        }
    }
    names.sort_unstable_by(|one, other| one.0.cmp(&other.0));
    names.dedup_by(|one, other| one.0 == other.0);
    let mut found: Vec<PipelineFile> = Vec::new();
    let mut run: Vec<(String, &'static dyn Format)> = Vec::new();
    let (names, formats): (Vec<String>, Vec<&'static dyn Format>) = names.into_iter().unzip();
    let texts = shelf.read_each(&names);
    for ((name, format), text) in names.into_iter().zip(formats).zip(texts) {
        found.push(pipeline(shelf, (name, text), format, sources, &mut run));
    }
    let wanted = |path: &str| matches!(asked, AskedFor::Only { files, .. } if files.iter().any(|file| file == path));
    let run_as_parts: HashSet<&str> = found
        .iter()
        .filter(|one| one.format.runs_parts())
        .flat_map(|one| &one.parts)
        .map(|part| sources.get(*part).path.as_str())
        .collect();
    found.retain(|one| {
        let path = sources.get(one.file).path.as_str();
        wanted(path) || !run_as_parts.contains(path)
    });
    follow(shelf, run, &mut found, sources);
    for file in &mut found {
        let path = &sources.get(file.file).path;
        file.declared = settings.starts.iter().filter(|starts| starts.path() == path).cloned().collect();
    }
    Ok(found)
}

/// The files of which dulk.toml says what starts them.
fn declared(shelf: &dyn Shelf, settings: &Settings) -> Result<Vec<(String, &'static dyn Format)>, FilesError> {
    let one = |starts: &crate::facts::StartsSetting| {
        let name = &starts.file.name;
        let wrong = |reason: String| FilesError::Settings { at: starts.file.at, reason };
        let path = starts.path().to_owned();
        if !shelf.has(&path) {
            return Err(wrong(format!("[[starts]] is for {name}, and there is no such file")));
        }
        let format = format_of(shelf, &path).map_err(|reason| wrong(format!("[[starts]] is for {name}: {reason}")))?;
        if !format.customs(&path).starts_outside {
            return Err(wrong(format!("{name} says itself what starts it, so that [[starts]] cannot")));
        }
        Ok((path, format))
    };
    let absent = settings.accept.iter().find(|entry| !shelf.has(entry.path()));
    if let Some(entry) = absent {
        let reason = format!("[[accept]] is for {}, and there is no such file", entry.file.name);
        return Err(FilesError::Settings { at: entry.file.at, reason });
    }
    settings.starts.iter().map(one).collect()
}

/// Reads what pipelines run as pipelines of their own, each once.
fn follow(shelf: &dyn Shelf, mut run: Vec<(String, &'static dyn Format)>, found: &mut Vec<PipelineFile>, sources: &mut Sources) {
    let known = found.len();
    while let Some((name, format)) = run.pop() {
        let read = found.iter().any(|one| sources.get(one.file).path == name);
        if !read && found.len() < known + RUN_LIMIT && shelf.has(&name) {
            let text = shelf.read(&name);
            found.push(pipeline(shelf, (name, text), format, sources, &mut run));
        }
    }
    if found.len() > known {
        found.sort_by(|one, other| sources.get(one.file).path.cmp(&sources.get(other.file).path));
    }
}

/// The formats of which the repository has a file where its forge reads it, by their short names.
pub fn formats_read(shelf: &dyn Shelf) -> Vec<&'static str> {
    let mut found: Vec<&'static str> = usual(shelf).into_iter().map(|(_, format)| format.id()).collect();
    found.dedup();
    found
}

/// The files that forges read, format by format.
fn usual(shelf: &dyn Shelf) -> Vec<(String, &'static dyn Format)> {
    let mut found: Vec<(String, &'static dyn Format)> = Vec::new();
    for format in all() {
        for spot in format.spots() {
            match spot {
                Spot::File(path) if shelf.has(&path) => found.push((path, *format)),
                Spot::File(_) => {}
                // It is told as a file that cannot be read.
                Spot::Folder(folder) if shelf.leads_out(&folder) => found.push((folder, *format)),
                Spot::Folder(folder) => {
                    let paths = shelf.names_in(&folder).into_iter().map(|name| format!("{folder}/{name}"));
                    found.extend(paths.filter(|path| format.claim(path) == Claim::Reads).map(|path| (path, *format)));
                }
            }
        }
    }
    found
}

/// Parts that pipelines run, pipelines under names that say nothing for sure, and pipeline files where no forge reads them.
fn beside(shelf: &dyn Shelf, files: &FileList) -> Vec<(String, &'static dyn Format)> {
    let read = files.iter().any(is_read);
    let fits = |format: &dyn Format, path: &str| {
        shelf.read(path).is_ok_and(|text| format.mentions(&text) && format.fits(&format.parse(&text, &Copies::default())))
    };
    let is_absent = |programs: &&Programs| files.named(programs.known_by).next().is_none();
    // Hardly a repository holds such programs, and every other file may be code.
    let formats: Vec<_> = all().iter().map(|format| (*format, format.programs().filter(is_absent))).collect();
    let begins = |format: &dyn Format, path: &str| shelf.begins(path, HEAD_BYTES).is_some_and(|head| format.begins(&head));
    let of = |path: &str| {
        let wanted = formats.iter().filter(|(_, absent)| !absent.is_some_and(|programs| (programs.is_code)(path)));
        wanted.map(|(format, _)| *format).find(|format| match format.claim(path) {
            Claim::Part => true,
            Claim::Slip { moved, .. } => !(moved && read) && fits(*format, path),
            Claim::Perhaps => begins(*format, path) && fits(*format, path),
            Claim::Reads | Claim::No => false,
        })
    };
    files.iter().filter_map(|path| Some((path.to_owned(), of(path)?))).take(BESIDE_LIMIT).collect()
}

/// The format of a file that is asked for by name: by its path, or else by what it holds. An error says why none is, in plain words.
fn format_of(shelf: &dyn Shelf, path: &str) -> Result<&'static dyn Format, String> {
    match claim(path) {
        Some((format, _)) => Ok(format),
        None => claim_text(&shelf.read(path)?),
    }
}

/// The format of a text whose name says nothing.
///
/// # Errors
/// When no format fits, or more than one; in plain words.
pub fn claim_text(text: &str) -> Result<&'static dyn Format, String> {
    let fitting: Vec<&'static dyn Format> =
        all().iter().copied().filter(|format| format.fits(&format.parse(text, &Copies::default()))).collect();
    match fitting.as_slice() {
        [only] => Ok(*only),
        [] => Err("neither its name nor what it holds is that of a pipeline file".into()),
        several => {
            let names: Vec<&str> = several.iter().map(|format| format.id()).collect();
            Err(format!("its name says nothing, and what it holds fits more than one format: {}", names.join(", ")))
        }
    }
}

/// The text of a file, or why it cannot be read.
type Text = Result<String, String>;

fn pipeline(
    shelf: &dyn Shelf,
    (name, text): (String, Text),
    format: &'static dyn Format,
    sources: &mut Sources,
    run: &mut Vec<(String, &'static dyn Format)>,
) -> PipelineFile {
    let (text, refused) = match text {
        Ok(text) => (text, None),
        Err(reason) => (String::new(), Some(reason)),
    };
    let MadeOf { parts, missing, there } = made_of(shelf, format, (&name, &text), sources, run);
    PipelineFile { file: sources.add(SourceFile::new(name, text)), format, refused, parts, missing, there, declared: Vec::new() }
}

/// What a file is made of, and whether it is there.
#[derive(Default)]
struct MadeOf {
    parts: Vec<crate::text::FileId>,
    missing: bool,
    there: Vec<String>,
}

/// What a file is made of, over and over, each once. What is run is put on a list.
fn made_of(
    shelf: &dyn Shelf,
    format: &'static dyn Format,
    (name, text): (&str, &str),
    sources: &mut Sources,
    run: &mut Vec<(String, &'static dyn Format)>,
) -> MadeOf {
    let mut made = MadeOf::default();
    let mut seen: Vec<String> = vec![name.to_owned()];
    let mut open = format.wants(text);
    while let Some(wanted) = open.pop() {
        let pattern = match wanted {
            Wanted::Part(pattern) => pattern.trim_start_matches('/').to_owned(),
            Wanted::Look(path) => {
                made.there.extend(Some(path).filter(|path| shelf.has(path)));
                continue;
            }
            Wanted::Runs { path, format } => {
                run.extend(named(format).map(|format| (path, format)));
                continue;
            }
        };
        let names = if pattern.contains('*') { shelf.matching(&pattern) } else { vec![pattern] };
        for name in names {
            if seen.contains(&name) {
                continue;
            }
            if made.parts.len() >= PARTS_LIMIT {
                made.missing = true;
                return made;
            }
            match shelf.read(&name) {
                Ok(text) => {
                    open.extend(format.wants(&text));
                    made.parts.push(sources.add(SourceFile::new(name.clone(), text)));
                }
                Err(_) => made.missing = true,
            }
            seen.push(name);
        }
    }
    made
}
