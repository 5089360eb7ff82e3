//! From the places that are to be linked to the edit of their page.

use super::apply::Applied;
use super::held::Held;
use super::rule::Rule;
use super::rule_set::RuleSet;
use crate::document::{ContentHash, Document, Edit, EditError, LinkTarget, Refusal};
use crate::tray::Fitting;

impl Applied {
    /// The edit that makes the links; `href` tells how a rule's target is written on the page. Links that only their edit shows
    /// to be impossible are held back. O(links²) for HTML, O(n × links) for Markdown.
    ///
    /// # Errors
    /// [`EditError`], though each of the links was seen to go together with the others.
    pub fn edit(
        &mut self,
        document: &Document,
        rules: &RuleSet,
        mut href: impl FnMut(&Rule) -> String,
    ) -> Result<Edit, EditError> {
        let mut fitting = Fitting::on(ContentHash::of(document.source()));
        let held = &mut self.held;
        self.linked.retain(|mention| {
            let rule = &rules.rules()[mention.rule];
            let target = LinkTarget { href: href(rule), says: rule.says.clone() };
            let put = document.put_link_in(mention.words, &target, rule.scope.blocks.also_in());
            let fits = put.and_then(|edit| fitting.add(edit).map_err(|_| Refusal::CrossesMarkup));
            if let Err(why) = fits {
                held.push((*mention, Held::Markup(why)));
            }
            fits.is_ok()
        });
        self.held.sort_by_key(|(mention, _)| (mention.words, mention.rule));
        fitting.compose()
    }
}
