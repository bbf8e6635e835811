//! What is proposed for `[answer]`.

/// A proposal for `[answer]`.
#[derive(Debug, Clone, PartialEq, Eq)]
pub struct DraftedAnswer {
    /// What goes into `target.toml`, with the reasons as comments.
    pub text: String,
    /// What nobody can tell from this answer alone, in sentences.
    pub open: Vec<String>,
}
