//! What ready-made actions do, after the catalog.

use super::app;
use super::{
    ArtifactName, Effect, EffectAt, Folder, HashOf, NeededGrant, Scene, StepEffects, UploadPath, WantedCredential, is_steady,
    join,
};
use crate::expression::{Expr, ExprKind};
use crate::facts::{Origin, Reach};
use crate::knowledge::{self, Action, ActionGrant, Deed, Field};
use crate::model::{Callee, Target, Text, Variables};
use crate::text::{Place, has_hole};

/// The parts of `owner/name/path@version`.
#[derive(Clone, Debug, PartialEq, Eq)]
pub struct ActionName<'t> {
    /// `owner/name/path`
    pub name: &'t str,
    /// After the `@`.
    pub version: Option<&'t str>,
}

impl<'t> ActionName<'t> {
    /// The name of an action that comes from elsewhere; nothing for a path in this repository or an image.
    pub fn of(written: &'t str) -> Option<Self> {
        // Asked of every step by many rules: what most names do not hold is looked for by one byte.
        let first = |wanted: u8| written.bytes().position(|byte| byte == wanted);
        if Callee::of_name(written) != Callee::Elsewhere
            || written.starts_with("../")
            || (first(b':').is_some() && written.contains("://"))
            || has_hole(written)
        {
            return None;
        }
        let (name, version) = match first(b'@') {
            Some(at) => (&written[..at], Some(&written[at + 1..])),
            None => (written, None),
        };
        name.contains('/').then_some(Self { name, version })
    }

    /// What the catalog knows of it.
    pub fn action(&self) -> Option<&'static Action> {
        knowledge::actions().get(self.name)
    }
}

/// Whether a value is the job's own token rather than another credential. `None` when it cannot be told.
pub fn own_token(text: &Text) -> Option<bool> {
    let inside = text.value.trim().strip_prefix("${{")?.strip_suffix("}}")?.trim();
    if inside.eq_ignore_ascii_case("secrets.GITHUB_TOKEN") || inside.eq_ignore_ascii_case("github.token") {
        return Some(true);
    }
    let plain_secret = inside.to_ascii_lowercase().starts_with("secrets.") && !inside.contains("||");
    plain_secret.then_some(false)
}

/// Whether a value is one of these paths in braces and nothing else.
fn reads_one_of(text: &Text, names: &[&str]) -> bool {
    let inside = text.value.trim().strip_prefix("${{").and_then(|rest| rest.strip_suffix("}}")).map(str::trim);
    inside.is_some_and(|inside| names.iter().any(|name| name.eq_ignore_ascii_case(inside)))
}

pub(super) fn effects(scene: &Scene<'_>, action: &Text, inputs: &Variables) -> StepEffects {
    let default_branch = scene.facts.git.default_branch.known().map(String::as_str);
    let name = ActionName::of(&action.value);
    let version = name.as_ref().and_then(|name| knowledge::major(name.version?));
    let Some(known) = name.and_then(|name| name.action()) else {
        return StepEffects {
            effects: vec![EffectAt::sure(Effect::Unknown(Reach::Anything), action.at)],
            ..StepEffects::default()
        };
    };
    let given = Given {
        version,
        hides_from: known.hides_from,
        inputs,
        at: action.at,
        default_branch,
        names: &scene.run.values,
        customs: scene.customs,
    };
    let effects = known.does.iter().flat_map(|deed| given.effects(scene, deed)).collect();
    let by_variable = |name: &&str| scene.variable(name).is_some_and(|text| own_token(text) == Some(true));
    let needed = known.grants.iter().filter(|grant| given.needs(grant) && grant.env_token.as_ref().is_none_or(by_variable));
    let grants = needed.filter_map(|grant| NeededGrant::new(grant, action.at)).collect();
    let wants = known.credentials.iter().filter_map(|group| given.wants(group, action)).collect();
    StepEffects { effects, grants, wants, ..StepEffects::default() }
}

/// The inputs of a step.
pub(super) struct Given<'s> {
    /// The major version that is asked for.
    version: Option<u32>,
    /// The version from which on hidden files are left out of what it hands on.
    hides_from: Option<u32>,
    inputs: &'s Variables,
    pub(super) at: Place,
    default_branch: Option<&'s str>,
    /// What a run of the format calls things.
    names: &'static knowledge::RunValues,
    customs: &'static knowledge::Customs,
}

impl Given<'_> {
    /// The commit that started the run, or the default branch: what is known of the repository's files holds for it.
    fn is_own_reference(&self, text: &Text) -> bool {
        let named = text.known().map(|name| name.strip_prefix("refs/heads/").unwrap_or(name));
        (named.is_some() && named == self.default_branch) || reads_one_of(text, self.names.own_refs)
    }

    pub(super) fn text(&self, field: &Field) -> Option<&Text> {
        let text = self.inputs.get(field.input?)?;
        (!text.value.is_empty()).then_some(text)
    }

    fn maybe(&self, field: Option<&Field>) -> Option<Text> {
        field.and_then(|field| self.text(field)).cloned()
    }

    /// The same of what is seldom given.
    fn rare(&self, field: Option<&Field>) -> Option<Box<Text>> {
        self.maybe(field).map(Box::new)
    }

    /// The value when it is known, its default included.
    pub(super) fn value(&self, field: &Field) -> Option<String> {
        match self.text(field) {
            Some(text) => text.known().map(str::to_owned),
            None => field.default.map(str::to_owned),
        }
    }

    fn folder(&self, field: &Field) -> Folder {
        match self.text(field) {
            Some(text) => join(&Some(String::new()), &text.value),
            None => join(&Some(String::new()), field.default?),
        }
    }

    fn artifact(&self, field: &Field) -> ArtifactName {
        ArtifactName { given: self.text(field).cloned(), default: field.default.map(str::to_owned) }
    }

    fn has(&self, name: &str) -> bool {
        self.inputs.get(name).is_some_and(|text| !text.value.is_empty())
    }

    /// The credentials of a group of which one must be given, when none is.
    fn wants(&self, group: &[&str], action: &Text) -> Option<WantedCredential> {
        let (variables, inputs): (Vec<&str>, Vec<&str>) = group.iter().copied().partition(|name| name.starts_with("env:"));
        if self.inputs.open || inputs.iter().any(|name| self.inputs.get(name).is_some()) {
            return None;
        }
        Some(WantedCredential {
            variables: variables.into_iter().map(|name| name.trim_start_matches("env:").to_owned()).collect(),
            inputs: inputs.into_iter().map(str::to_owned).collect(),
            publisher: ActionName::of(&action.value).map_or(action.value.as_str(), |name| name.name).to_owned(),
            read_at: None,
            at: self.at,
        })
    }

    /// The value that names the files, where hidden ones among them are left out.
    fn leaves_hidden_out(&self) -> Option<Text> {
        let asked = self.inputs.get("include-hidden-files").is_some_and(|text| text.value != "false");
        let left_out = self.hides_from.is_some_and(|from| self.version.is_some_and(|version| version >= from));
        self.inputs.get("path").filter(|_| left_out && !asked).cloned()
    }

    fn needs(&self, grant: &ActionGrant) -> bool {
        let token_is_own =
            grant.token.as_ref().and_then(|input| self.inputs.get(input)).is_none_or(|text| own_token(text) == Some(true));
        token_is_own
            && !self.inputs.open
            && grant.when.iter().all(|input| self.has(input))
            && !grant.unless.iter().any(|input| self.has(input))
    }

    /// The lines of a value that holds one path each; those after `!` take away and are left out.
    fn paths(&self, field: &Field) -> Vec<UploadPath> {
        let Some(text) = self.text(field) else {
            let written = field.default.unwrap_or_default();
            return vec![UploadPath {
                folder: join(&Some(String::new()), written),
                at: self.at,
                written: written.to_owned(),
                glob: false,
            }];
        };
        let mut found = Vec::new();
        let mut start = 0;
        for line in text.value.split_inclusive('\n') {
            let trimmed = line.trim();
            let offset = start + (line.len() - line.trim_start().len());
            start += line.len();
            if !trimmed.is_empty() && !trimmed.starts_with('!') {
                found.push(upload_path(trimmed, text.place(offset..offset + trimmed.len())));
            }
        }
        found
    }

    /// The place in words: the values of the inputs that name it, when all of them are known. Without any, the target alone.
    fn place(&self, target: &Target, fields: &[Field]) -> Option<String> {
        let mut words = vec![target.to_string()];
        for field in fields {
            words.push(match self.text(field) {
                Some(text) if is_steady(&text.value) => text.value.clone(),
                Some(_) => return None,
                None => field.default?.to_owned(),
            });
        }
        Some(words.join(" ").trim_end().to_owned()).filter(|_| !(fields.is_empty() && *target != Target::ForgePages))
    }

    fn effects(&self, scene: &Scene<'_>, deed: &Deed) -> Vec<EffectAt> {
        match deed {
            Deed::Command { input, before, dir } => self.command(scene, input, before, &self.folder(dir)),
            Deed::PublishApp { .. } => app::effects(self, scene, deed),
            deed => vec![EffectAt::sure(self.effect(deed), self.at)],
        }
    }

    /// What a command of the action's tool does; the credential comes from the action's own inputs.
    fn command(&self, scene: &Scene<'_>, input: &Field, before: &str, dir: &Folder) -> Vec<EffectAt> {
        let value =
            self.text(input).map(|text| text.value.clone()).or_else(|| input.default.map(str::to_owned)).unwrap_or_default();
        let at = self.text(input).map_or(self.at, Text::inner);
        let lines = value.lines().filter(|line| !line.trim().is_empty()).map(|line| format!("{before} {line}\n"));
        super::script::of_text(scene, &lines.collect::<String>(), at, dir.clone())
    }

    fn effect(&self, deed: &Deed) -> Effect {
        match deed {
            // Each of them does more than one thing, and is worked out apart.
            Deed::Command { .. } | Deed::PublishApp { .. } => Effect::Nothing,
            Deed::Checkout { into, reference, repository, submodules, keeps, depth } => Effect::Checkout {
                depth: self.rare(depth.as_ref()).or_else(|| Some(Box::new(Text::fixed(depth.as_ref()?.default?, self.at)))),
                into: self.folder(into),
                own: self.text(repository).is_none_or(|text| reads_one_of(text, self.names.own_repository))
                    && self.text(reference).is_none_or(|text| self.is_own_reference(text)),
                reference: self.rare(Some(reference)),
                repository: self.rare(Some(repository)),
                submodules: self.rare(Some(submodules)),
                forgets: keeps.as_ref().and_then(|keeps| self.value(keeps)).map(|keeps| keeps == "false"),
            },
            Deed::SetUp { tool, version, version_file, cache, lockfiles } => Effect::SetUp {
                tool: (*tool).to_owned(),
                version: self.maybe(version.as_ref()),
                version_file: self.rare(version_file.as_ref()),
                cache: self.rare(cache.as_ref()),
                lockfiles: self.rare(lockfiles.as_ref()),
            },
            Deed::Cache { key, paths, fallback, only_restores } => Effect::RestoreCache {
                key: self.text(key).cloned(),
                hashes: self.text(key).map(hashes_in).unwrap_or_default(),
                paths: self.paths(paths),
                fallback: self.maybe(Some(fallback)),
                saves: Some(!only_restores),
                saves_at: None,
            },
            Deed::SaveCache { key, paths } => Effect::SaveCache { key: self.text(key).cloned(), paths: self.paths(paths) },
            Deed::Build { generator, output, .. } => {
                let origin = self.text(output).map_or(Origin::Catalog, |text| Origin::At(text.at));
                Effect::Build {
                    generator: (*generator).to_owned(),
                    dir: Some(String::new()),
                    output: self.folder(output),
                    origin,
                    base: None,
                    server: Some(false),
                    readdressed: true,
                }
            }
            Deed::Upload { name, paths, exclusive_from } => Effect::Upload {
                name: self.artifact(name),
                expires: None,
                leaves_hidden_out: self.leaves_hidden_out().map(Box::new),
                passes_over_nothing: self
                    .inputs
                    .get("if-no-files-found")
                    .filter(|text| text.value == "ignore")
                    .cloned()
                    .map(Box::new),
                goes_online: self.customs.pages_artifact.is_some_and(|pages| self.artifact(name).known() == Some(pages)),
                laid: None,
                keeps_paths: false,
                exclusive: self.version.is_some_and(|version| exclusive_from.is_some_and(|from| version >= from))
                    && self.inputs.get("overwrite").is_none_or(|text| text.value == "false"),
                paths: paths.as_ref().map(|paths| self.paths(paths)).unwrap_or_default(),
            },
            Deed::Download { name, into, pattern, elsewhere, merge } => Effect::Download {
                merges: self.value(merge).as_deref() == Some("true"),
                name: self.artifact(name),
                into: self.folder(into),
                elsewhere: self.text(pattern).is_some() || elsewhere.iter().any(|input| self.has(input)),
            },
            Deed::Fetch { into } => Effect::Write { path: self.folder(into) },
            Deed::Publish { target, folder, branch, artifact, place, creates_branch, environment, inside } => Effect::Publish {
                serving: None,
                laid: None,
                target: target.clone(),
                folder: folder
                    .as_ref()
                    .and_then(|folder| self.paths(folder).into_iter().next())
                    .filter(|path| !path.written.is_empty()),
                artifact: artifact.as_ref().map(|artifact| Box::new(self.artifact(artifact))),
                branch: branch.as_ref().and_then(|branch| self.value(branch)),
                place: self.place(target, place),
                creates_branch: *creates_branch,
                environment: environment.map(str::to_owned),
                needs_hand_on: false,
                inside: inside.as_ref().map_or(Some(String::new()), |inside| self.value(inside)),
            },
            Deed::Install { manager } => {
                Effect::Install { manager: (*manager).to_owned(), frozen: false, without_dev: false, dir: Some(String::new()) }
            }
            Deed::Test { tool } => Effect::Test { tool: (*tool).to_owned() },
            Deed::Push => Effect::Push { branch: None, current: false },
            Deed::Nothing => Effect::Nothing,
            Deed::Anything => Effect::Unknown(Reach::Anything),
        }
    }
}

/// The files that the `hashFiles` calls of a key name.
fn hashes_in(key: &Text) -> Vec<HashOf> {
    let mut found = Vec::new();
    for hole in key.holes() {
        let Ok(inside) = &hole.inside else { continue };
        inside.walk(&mut |part| {
            let ExprKind::Call(name, arguments) = &part.kind else { return };
            if !name.eq_ignore_ascii_case("hashFiles") || arguments.is_empty() {
                return;
            }
            let text = |argument: &Expr| match &argument.kind {
                ExprKind::Text(text) => Some(text.clone()),
                _ => None,
            };
            let patterns = arguments.iter().map(text).collect();
            found.push(HashOf { patterns, at: key.place(part.range.clone()), spelled: "hashFiles('FILE')" });
        });
    }
    found
}

/// A path as it is written; the part before a `*` or the like is the folder it looks in.
fn upload_path(written: &str, at: Place) -> UploadPath {
    let first_glob = written.find(['*', '?', '[']);
    let fixed = match first_glob {
        Some(index) => written[..index].rsplit_once('/').map_or("", |(dir, _)| dir),
        None => written,
    };
    let folder =
        if has_hole(written) && join(&Some(String::new()), written).is_none() { None } else { join(&Some(String::new()), fixed) };
    UploadPath { folder, at, written: written.to_owned(), glob: first_glob.is_some() }
}
