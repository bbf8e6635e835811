//! The pages about a batch: one about all of it, and one about each group where these are wanted.

use super::by_group::GroupFacts;
use crate::running::compared::ComparedFacts;
use crate::{ChangeKind, Ready, Summary};
use dusk_files::{FileName, OutputFile};

/// What the page about a batch is called.
const PAGE: &str = "report.html";

/// What a page about a batch may tell.
#[derive(Debug, Clone, Copy)]
pub struct BatchFacts<'r> {
    /// The batch's name.
    pub batch: &'r str,
    /// Who makes it.
    pub by: &'r str,
    /// The job.
    pub ready: &'r Ready<'r>,
    /// What it came to.
    pub summary: &'r Summary,
    /// The files that were written.
    pub outputs: &'r [OutputFile],
    /// What was changed, the most cells first.
    pub changes: &'r [ChangeKind],
    /// What is new since the last batch.
    pub drift: &'r [String],
    /// What changes beside what the target holds, where that is known.
    pub compared: Option<&'r ComparedFacts>,
}

/// Makes the page about a batch.
pub type PageMaker<'b> = dyn Fn(&BatchFacts<'_>) -> String + 'b;

/// Makes the page about one group of a batch.
pub type GroupPageMaker<'b> = dyn Fn(&BatchFacts<'_>, &GroupFacts) -> String + 'b;

/// The pages about a batch and about each of its groups, each with the name of its file.
pub(super) fn pages(
    (page, group_page): (Option<&PageMaker<'_>>, Option<&GroupPageMaker<'_>>),
    facts: &BatchFacts<'_>,
    groups: &[GroupFacts],
) -> Vec<(String, String)> {
    let mut pages: Vec<(String, String)> = Vec::new();
    pages.extend(page.map(|page| (PAGE.to_owned(), page(facts))));
    let Some(group_page) = group_page else { return pages };
    for group in groups {
        let word = group.value.as_deref().map_or_else(|| "of-no-group".to_owned(), FileName::word);
        let name = |number: usize| match number {
            0 => format!("report-{word}.html"),
            number => format!("report-{word}-{}.html", number + 1),
        };
        // Two values may be one as names of files.
        let is_free = |name: &String| pages.iter().all(|(taken, _)| !taken.eq_ignore_ascii_case(name));
        let free = (0..=groups.len()).map(name).find(is_free);
        pages.extend(free.map(|name| (name, group_page(facts, group))));
    }
    pages
}
