//! What formats themselves put online, by what the catalog knows of it.

use thin_vec::ThinVec;

use super::keys::Keys;
use crate::effects::{Effect, EffectAt, UploadPath, WantedCredential};
use crate::knowledge::{List, OwnPublisher, Word};
use crate::model::{ByItself, Credential, Target, Text};
use crate::text::Place;

/// What a publish does, by what the catalog knows of its word.
pub(super) fn publish(keys: &Keys<'_>, known: &'static OwnPublisher, at: Place) -> ByItself {
    let mut own = ByItself { wants: wants(keys, known, at), ..ByItself::default() };
    let scalars = keys.iter().filter(|(key, _)| !matches!(keys.nodes.tree.scalar(*key), Some("on" | "true")));
    own.texts.extend(scalars.filter_map(|(_, value)| keys.nodes.text(value)));
    own.credentials = credentials(keys, known);
    let Some(target) = &known.target else {
        own.effects.push(EffectAt::sure(Effect::Nothing, at));
        return own;
    };
    let named = known.folder.iter().find_map(|key| keys.text(key));
    let folder = named.or_else(|| Some(Text::fixed(known.usual_folder?, at)));
    let branch = match &known.branch {
        Some(key) => keys.text(key).map_or_else(|| known.usual_branch.map(str::to_owned), |text| text.known().map(str::to_owned)),
        None => None,
    };
    let inside = match known.inside.as_ref().and_then(|key| keys.text(key)) {
        Some(text) => text.known().map(str::to_owned),
        None => Some(String::new()),
    };
    let effect = Effect::Publish {
        place: place_of(keys, known, target, branch.as_deref()),
        target: target.clone(),
        folder: folder.as_ref().map(UploadPath::as_written),
        artifact: None,
        branch,
        creates_branch: true,
        environment: None,
        needs_hand_on: false,
        inside,
        laid: None,
        serving: None,
    };
    own.effects.push(EffectAt::sure(effect, at));
    own
}

/// The place in words that are the same for the same place; nothing where one of them is not known.
fn place_of(keys: &Keys<'_>, known: &OwnPublisher, target: &Target, branch: Option<&str>) -> Option<String> {
    if known.branch.is_some() {
        let elsewhere: Option<String> = known.elsewhere.iter().find_map(|key| keys.text(key)).map(|text| text.value);
        let branch = branch?;
        return Some(elsewhere.map_or_else(|| format!("branch {branch}"), |other| format!("branch {branch} of {other}")));
    }
    let mut words = vec![target.to_string()];
    for key in known.place {
        words.push(keys.text(key)?.value);
    }
    words.extend(known.inside.as_ref().and_then(|key| keys.text(key)).map(|text| text.value));
    (words.len() > 1).then(|| words.join(" "))
}

/// The credentials of which none is given.
fn wants(keys: &Keys<'_>, known: &'static OwnPublisher, at: Place) -> ThinVec<WantedCredential> {
    let wanted = |group: &List<Word>| {
        let (variables, inputs): (Vec<Word>, Vec<Word>) = group.iter().copied().partition(|name| name.starts_with("env:"));
        let given = inputs.iter().any(|name| keys.get(name).is_some());
        (!given).then(|| WantedCredential {
            variables: variables.into_iter().map(|name| name.trim_start_matches("env:").to_owned()).collect(),
            inputs: inputs.into_iter().map(str::to_owned).collect(),
            publisher: known.name.to_owned(),
            read_at: None,
            at,
        })
    };
    known.needs.iter().filter_map(wanted).collect()
}

/// The values of keys that it signs in with.
fn credentials(keys: &Keys<'_>, known: &OwnPublisher) -> Vec<Credential> {
    let same = |one: &str, other: &str| one.replace('-', "_") == other.replace('-', "_");
    let credential = |(key, value)| {
        let (name, value) = (keys.nodes.text(key)?, keys.nodes.text(value)?);
        let secret = known.secrets.iter().any(|key| same(key, &name.value));
        let needed = known.needs.iter().copied().flatten().any(|key| same(key, &name.value));
        (secret || needed).then_some(Credential { name, value, secret })
    };
    keys.iter().filter_map(credential).collect()
}
