//! The stages and actions of a definition, as they are written.
//!
//! After the page "Pipeline structure reference": stages come one after the other; in a stage, actions of one run order begin together, and
//! those of a higher one when all of the lower have ended.

use super::values::Values;
use crate::carrier::NodeId;
use crate::model::Text;
use crate::text::Place;

/// A pipeline as it is written.
pub(super) struct Definition {
    pub name: Option<Text>,
    pub node: NodeId,
    pub stages: Vec<Stage>,
    /// Some of it is only known when the template is laid out.
    pub open: bool,
}

/// One stage.
pub(super) struct Stage {
    pub name: Text,
    pub actions: Vec<Action>,
}

/// One action.
pub(super) struct Action {
    pub name: Text,
    pub node: NodeId,
    pub category: String,
    pub provider: Option<Text>,
    pub order: u32,
    pub order_at: Option<Place>,
    pub configuration: Option<NodeId>,
    pub inputs: Vec<Text>,
    pub outputs: Vec<Text>,
}

/// More are no honest definition.
const STAGE_LIMIT: usize = 200;
const ACTION_LIMIT: usize = 200;

impl Definition {
    pub fn of(values: &Values<'_>, node: NodeId, name: Option<Text>) -> Self {
        let list = values.get(node, "stages");
        let mut open = list.is_some_and(|list| !values.is_plain(list));
        let mut stages = Vec::new();
        for item in list.map(|list| values.items(list)).unwrap_or_default().into_iter().take(STAGE_LIMIT) {
            let Some(name) = values.text_at(item, "name") else {
                open = true;
                continue;
            };
            let mut actions = Vec::new();
            for node in values.list(item, "actions").into_iter().take(ACTION_LIMIT) {
                match Action::of(values, node) {
                    Some(action) => actions.push(action),
                    None => open = true,
                }
            }
            stages.push(Stage { name, actions });
        }
        let name = values.text_at(node, "name").or(name);
        Self { name, node, stages, open }
    }

    /// All actions with the number of their stage.
    pub fn actions(&self) -> impl Iterator<Item = (usize, &Action)> {
        self.stages.iter().enumerate().flat_map(|(index, stage)| stage.actions.iter().map(move |action| (index, action)))
    }
}

impl Action {
    fn of(values: &Values<'_>, node: NodeId) -> Option<Self> {
        let name = values.text_at(node, "name")?;
        let kind = values.get(node, "actionTypeId")?;
        let names =
            |key: &str| values.list(node, key).into_iter().filter_map(|item| values.text_at(item, "name")).collect::<Vec<_>>();
        let order = values.text_at(node, "runOrder");
        Some(Self {
            name,
            node,
            category: values.text_at(kind, "category")?.value,
            provider: values.text_at(kind, "provider"),
            order: order.as_ref().and_then(|text| text.value.trim().parse().ok()).unwrap_or(1),
            order_at: order.map(|text| text.inner()),
            configuration: values.get(node, "configuration"),
            inputs: names("inputArtifacts"),
            outputs: names("outputArtifacts"),
        })
    }

    /// Whether the service's own builds are run.
    pub fn builds(&self) -> bool {
        matches!(self.category.as_str(), "Build" | "Test") && self.is_by("CodeBuild")
    }

    pub fn is_by(&self, provider: &str) -> bool {
        self.provider.as_ref().is_some_and(|text| text.value == provider)
    }

    /// A value of its configuration.
    pub fn set(&self, values: &Values<'_>, key: &str) -> Option<NodeId> {
        let node = self.configuration?;
        let tree = values.nodes.tree;
        tree.value(node, key).filter(|value| !tree.is_null(*value))
    }

    /// The same as a text that is known.
    pub fn says(&self, values: &Values<'_>, key: &str) -> Option<Text> {
        values.text(self.set(values, key)?)
    }
}
