//! What steps share: the files that lie in their folder, and the machine with its tools and its environment. They are two circles: in
//! some formats each step runs in an image of its own and finds the files of those before it.

use super::Text;

/// The files that the steps of a job find when the first of them begins.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
pub enum Workspace {
    /// None: nothing is there but what the steps bring.
    Fresh,
    /// Those of earlier runs may be there, or it is not known.
    Kept,
    /// Those that earlier runs of the same pipeline have left, and no others.
    Left,
    /// Those that another job of the run leaves behind, by its number.
    Of(usize),
}

impl Workspace {
    /// The job whose files it goes on with.
    pub fn of(self) -> Option<usize> {
        match self {
            Self::Of(job) => Some(job),
            Self::Fresh | Self::Kept | Self::Left => None,
        }
    }
}

/// What steps run on: the tools that are installed there, and nothing of the files.
#[derive(Clone, Debug, Default)]
pub struct Machine {
    /// The labels by which it is asked for.
    pub runners: Vec<Text>,
    /// The image that the steps run in.
    pub image: Option<Text>,
    /// The path at which the files of the job stand in it, where that is written.
    pub files_at: Option<Text>,
}
