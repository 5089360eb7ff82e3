//! What judges the openings of a site: what ships with Strelm, or one that knows the habits of the site's authors, too.

use std::sync::Arc;

use strelm_core::openings::{Ensemble, For, Habits};
use strelm_store::{PgPool, SiteId, StoreError, habits};

pub(super) struct Judging {
    shipped: Marked,
    here: Marked,
}

/// A judge, and what tells it from others.
#[derive(Clone)]
struct Marked {
    ensemble: Arc<Ensemble>,
    mark: [u8; 32],
}

impl Marked {
    fn new(ensemble: Arc<Ensemble>) -> Self {
        Self { mark: ensemble.mark(), ensemble }
    }
}

impl Judging {
    /// As on any site.
    pub fn new(shipped: Arc<Ensemble>) -> Self {
        let shipped = Marked::new(shipped);
        Self { here: shipped.clone(), shipped }
    }

    /// Follows these habits, or none any more; whether that makes another judge. O(trees).
    pub fn follow(&mut self, habits: Option<&Habits>) -> bool {
        let taught = habits.and_then(|habits| habits.taught_to(&self.shipped.ensemble, For::Editors).ok());
        let here = taught.map_or_else(|| self.shipped.clone(), |taught| Marked::new(Arc::new(taught)));
        let is_another = here.mark != self.here.mark;
        self.here = here;
        is_another
    }

    /// The judge as the site's own lessons made it.
    pub fn ensemble(&self) -> &Ensemble {
        &self.here.ensemble
    }

    /// The hash of its weights, by which what it judged is known.
    pub fn mark(&self) -> [u8; 32] {
        self.here.mark
    }

    /// The judge that was built in.
    pub fn shipped(&self) -> &Arc<Ensemble> {
        &self.shipped.ensemble
    }

    /// The hash of the weights that were built in.
    pub fn shipped_mark(&self) -> [u8; 32] {
        self.shipped.mark
    }
}

/// What is known of a site's habits. What was learnt beside another judge than this one says nothing.
///
/// # Errors
/// [`StoreError`].
pub async fn known_habits(pool: &PgPool, site: SiteId, shipped: [u8; 32]) -> Result<Option<Habits>, StoreError> {
    let kept = habits::get(pool, site).await?.filter(|kept| kept.judge == shipped);
    Ok(kept.and_then(|kept| Habits::parse(&kept.learnt?).ok()))
}
