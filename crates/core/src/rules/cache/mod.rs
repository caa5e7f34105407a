//! What is cached, and under which key.

pub(in crate::rules) mod absent_lockfile;
pub(in crate::rules) mod blind_key;
pub(in crate::rules) mod doubled;
pub(in crate::rules) mod empty_hash;
pub(in crate::rules) mod frozen_key;
pub(in crate::rules) mod mixed_platforms;
pub(in crate::rules) mod mixed_versions;
pub(in crate::rules) mod never_saved;
pub(in crate::rules) mod no_prefix;
pub(in crate::rules) mod none;
pub(in crate::rules) mod other_manager;
pub(in crate::rules) mod outside;
pub(in crate::rules) mod restless_key;
pub(in crate::rules) mod stale_site;
pub(in crate::rules) mod strangers;
pub(in crate::rules) mod too_late;
pub(in crate::rules) mod wiped;
pub(in crate::rules) mod wrong_folder;

use crate::case::Case;
use crate::effects::{Effect, EffectAt, UploadPath};
use crate::model::Text;
use crate::rules::family;

family![
    absent_lockfile,
    frozen_key,
    never_saved,
    restless_key,
    blind_key,
    empty_hash,
    too_late,
    wiped,
    no_prefix,
    mixed_platforms,
    mixed_versions,
    doubled,
    none,
    stale_site,
    outside,
    wrong_folder,
    strangers,
    other_manager,
];

/// A cache that a step brings back, and saves at the end of its job.
struct Restored<'c> {
    job: usize,
    step: usize,
    at: &'c EffectAt,
    key: &'c Text,
    paths: &'c [UploadPath],
    fallback: Option<&'c Text>,
}

fn restored<'c>(case: &'c Case<'_>) -> Vec<Restored<'c>> {
    let of = |(job, step, at): (usize, usize, &'c EffectAt)| match &at.effect {
        Effect::RestoreCache { key: Some(key), paths, fallback, .. } => {
            Some(Restored { job, step, at, key, paths, fallback: fallback.as_ref() })
        }
        _ => None,
    };
    case.all_effects().filter_map(of).collect()
}

/// The dotted paths and functions that a key is made of, in lower case; nothing when a hole cannot be read.
fn parts_of(key: &Text) -> Option<Vec<String>> {
    let mut parts = Vec::new();
    for hole in key.holes() {
        hole.inside.as_ref().ok()?.walk(&mut |part| match &part.kind {
            crate::expression::ExprKind::Call(name, _) => parts.push(format!("{}()", name.to_ascii_lowercase())),
            _ => {
                if let Some(path) = part.path() {
                    parts.push(path.iter().map(|(word, _)| word.to_ascii_lowercase()).collect::<Vec<_>>().join("."));
                }
            }
        });
    }
    Some(parts)
}

/// Whether one of the paths is a package manager's own folder or the installed packages.
fn holds_packages(paths: &[UploadPath]) -> bool {
    paths.iter().any(|path| {
        let written = path.written.trim_end_matches('/');
        ["node_modules", ".npm", ".pnpm-store", ".yarn/cache", ".cache/yarn", ".bun/install/cache", ".cache/pip"]
            .iter()
            .any(|end| written.ends_with(end))
    })
}
