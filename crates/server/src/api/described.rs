//! The description of all operations: what each says of itself, and what holds for every request.

use utoipa::openapi::path::{Operation, ParameterIn};
use utoipa::openapi::{ContentBuilder, Info, OpenApi, Ref, RefOr, ResponseBuilder};
use utoipa_actix_web::AppExt;

/// The OpenAPI document.
pub fn document() -> OpenApi {
    let (_, mut document) = actix_web::App::new().into_utoipa_app().configure(super::configure).split_for_parts();
    document.info = Info::new("Strelm", env!("CARGO_PKG_VERSION"));
    for (path, item) in &mut document.paths.paths {
        let with_numbers = path.contains('{');
        for operation in [&mut item.get, &mut item.put, &mut item.post, &mut item.delete].into_iter().flatten() {
            add_common(operation, with_numbers);
        }
    }
    document
}

/// Refusals before an operation is reached: see `guard`, `serve` and `error`.
fn add_common(operation: &mut Operation, with_numbers: bool) {
    let takes_body = operation.request_body.is_some();
    let asks = operation.parameters.as_ref().is_some_and(|parameters| {
        parameters
            .iter()
            .any(|parameter| matches!(parameter, RefOr::T(parameter) if parameter.parameter_in == ParameterIn::Query))
    });
    let mut refuses = |status: &str, why: &str| {
        let problem = ContentBuilder::new().schema(Some(Ref::from_schema_name("Problem"))).build();
        let response = ResponseBuilder::new().description(why).content("application/json", problem).build();
        operation.responses.responses.entry(status.to_owned()).or_insert(RefOr::T(response));
    };
    if takes_body || asks {
        refuses("400", "The request cannot be understood.");
    }
    refuses("403", "The request does not come from Strelm's own pages.");
    if with_numbers {
        refuses("404", "There is nothing at this address.");
    }
    if takes_body {
        refuses("413", "The request is larger than Strelm takes.");
    }
    refuses("500", "Something went wrong on the server.");
    let text = ContentBuilder::new().schema(Some(utoipa::schema!(String))).build();
    let often = ResponseBuilder::new().description("Too many requests at once; `Retry-After` says when to come again.");
    let often = often.content("text/plain", text).build();
    operation.responses.responses.entry("429".to_owned()).or_insert(RefOr::T(often));
}
