//! A place in a text that is read from front to back.

/// The text, and the bytes of it that have been read.
pub(super) struct Cursor<'t> {
    pub text: &'t str,
    pub at: usize,
}

impl<'t> Cursor<'t> {
    /// What has not been read.
    pub fn rest(&self) -> &'t str {
        &self.text[self.at..]
    }

    /// Passes over blanks.
    pub fn space(&mut self) {
        self.at = self.text.len() - self.rest().trim_start().len();
    }

    /// Takes a sign, blanks before it passed over, when it comes next.
    pub fn take(&mut self, sign: &str) -> bool {
        self.space();
        let found = self.rest().starts_with(sign);
        self.at += if found { sign.len() } else { 0 };
        found
    }
}
