//! The work on one step's script: what is being followed, and what has been found.

use super::{Effect, EffectAt, Folder, Scene, StepEffects, join};
use crate::expression::Expr;
use crate::facts::Reach;
use crate::model::Text;
use crate::shell::Word;
use crate::text::Place;

/// Scripts that call scripts: deeper is a circle or a maze.
const DEPTH_LIMIT: usize = 8;
/// Texts that one step follows: more come of no honest script, and a few that call each other many times would never end.
const FOLLOW_LIMIT: usize = 500;
/// More effects than any honest step has.
const EFFECT_LIMIT: usize = 4_000;

/// Where commands are written: in the step itself, or in a package's script that a command of the step runs.
pub(super) enum Written<'t> {
    /// Each command has a place of its own.
    In(&'t Text),
    /// All have the place of the command that runs them.
    By(Place),
}

impl Written<'_> {
    pub fn place(&self, range: std::ops::Range<usize>) -> Place {
        match self {
            Self::In(text) => text.place(range),
            Self::By(place) => *place,
        }
    }
}

/// The work on one step.
pub(super) struct Run<'r, 's> {
    pub scene: &'r Scene<'s>,
    pub out: StepEffects,
    /// The scripts that are being followed, by folder and name.
    pub visiting: Vec<(String, String)>,
    /// How many texts have been followed.
    pub followed: usize,
    /// Something was left out.
    given_up: bool,
    /// What follows may also not happen.
    pub perhaps: bool,
    /// The failure of what follows is passed over.
    pub forgiven: bool,
    /// The tests that must hold for what follows.
    pub tests: Vec<Expr>,
    /// The script of package.json that looks at the sources or tests them, while it is followed.
    pub test: Option<String>,
    /// What the commands so far have put into variables, as `NAME=value`.
    pub assigned: Vec<String>,
}

/// One command, ready to be understood.
#[derive(Clone)]
pub(super) struct Call<'c> {
    pub words: &'c [Word],
    pub dir: Folder,
    pub at: Place,
    pub source: &'c str,
}

impl Call<'_> {
    /// The words, the first as the name of a program.
    pub fn named(&self) -> Vec<&str> {
        let mut words = self.known();
        if let Some(first) = words.first_mut() {
            *first = program_name(first);
        }
        words
    }

    /// The words that are known now; the rest are "".
    pub fn known(&self) -> Vec<&str> {
        self.words.iter().map(|word| word.known().unwrap_or_default()).collect()
    }
}

impl<'r, 's> Run<'r, 's> {
    pub fn new(scene: &'r Scene<'s>) -> Self {
        Self {
            scene,
            out: StepEffects::default(),
            visiting: Vec::new(),
            followed: 0,
            given_up: false,
            perhaps: false,
            forgiven: false,
            tests: Vec::new(),
            test: None,
            assigned: Vec::new(),
        }
    }

    /// Follows another text, when it is not followed already; a maze of texts may do anything.
    pub fn within(&mut self, key: (String, String), at: Place, follow: impl FnOnce(&mut Self)) {
        self.followed += 1;
        if self.scene.effects_left.get() == 0
            || self.visiting.len() >= DEPTH_LIMIT
            || self.followed > FOLLOW_LIMIT
            || self.visiting.contains(&key)
        {
            self.add(Effect::Unknown(Reach::Anything), at);
            return;
        }
        self.visiting.push(key);
        follow(self);
        self.visiting.pop();
    }

    pub fn add(&mut self, effect: Effect, at: Place) {
        let effect = match (effect, &self.test) {
            (Effect::Unknown(_), Some(script)) => Effect::Test { tool: script.clone() },
            (effect, _) => effect,
        };
        if !self.visiting.is_empty() {
            let Some(left) = self.scene.effects_left.get().checked_sub(1) else { return self.give_up(at) };
            self.scene.effects_left.set(left);
        }
        if self.out.effects.len() >= EFFECT_LIMIT {
            return self.give_up(at);
        }
        self.out.effects.push(EffectAt {
            effect,
            at,
            perhaps: self.perhaps,
            branching: self.perhaps,
            forgiven: self.forgiven,
            tests: self.tests.as_slice().into(),
        });
    }

    /// There is more than is looked at: what is left out may do anything.
    fn give_up(&mut self, at: Place) {
        if !self.given_up {
            self.given_up = true;
            self.out.effects.push(EffectAt::sure(Effect::Unknown(Reach::Anything), at));
        }
    }
}

/// `./node_modules/.bin/vite` and `vite@5` are vite.
pub(super) fn program_name(word: &str) -> &str {
    // Most words hold no path at all.
    let path = Some(word).filter(|word| word.contains('/'));
    let name = path.and_then(|path| path.rsplit_once("node_modules/.bin/")).map_or(word, |(_, name)| name);
    match name.rfind('@') {
        Some(index) if index > 0 => &name[..index],
        _ => name,
    }
}

/// The path of a word; for a pattern, the folder it looks in.
pub(super) fn path_of(dir: &Folder, word: &Word) -> Folder {
    if word.glob {
        let fixed = word.text.split(['*', '?', '[']).next().unwrap_or_default();
        return join(dir, fixed.rsplit_once('/').map_or("", |(folder, _)| folder));
    }
    join(dir, &word.text)
}

/// The word after an option.
pub(super) fn after_option<'c>(call: &Call<'c>, option: &str) -> Option<&'c Word> {
    let index = call.words.iter().position(|word| word.text == option)?;
    call.words.get(index + 1)
}
