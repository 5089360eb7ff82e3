//! The HTTP interface: one folder for each resource, one file for each thing that can be done with it.

mod error;
pub mod events;
pub mod guard;
mod openings;
mod pages;
mod pictures;
mod readings;
mod releases;
mod sites;
pub use pages::shown;
pub mod state;
mod tray;

pub use error::{ApiError, Problem};
pub use state::State;

use utoipa_actix_web::scope;
use utoipa_actix_web::service_config::ServiceConfig;

/// All operations, below `/api`.
pub fn configure(config: &mut ServiceConfig<'_>) {
    config.service(
        scope("/api")
            .service(sites::list::list)
            .service(sites::show::show)
            .service(pages::list::list)
            .service(pages::desk::desk)
            .service(openings::take::take)
            .service(openings::pass::pass)
            .service(openings::bring_back::bring_back)
            .service(tray::show::show)
            .service(tray::drop::drop_link)
            .service(releases::start::start)
            .service(releases::list::list)
            .service(releases::take_back::take_back)
            .service(readings::start::start)
            .service(events::follow::follow)
            .service(pictures::show::show),
    );
}

/// The description of all operations.
pub fn document() -> utoipa::openapi::OpenApi {
    use utoipa_actix_web::AppExt;
    let (_, mut document) = actix_web::App::new().into_utoipa_app().configure(configure).split_for_parts();
    document.info = utoipa::openapi::Info::new("Strelm", env!("CARGO_PKG_VERSION"));
    document
}
