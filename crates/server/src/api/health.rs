//! For whoever runs Strelm: whether it lives, whether it can work, and its figures.

use std::sync::OnceLock;
use std::time::{Duration, Instant};

use actix_web::body::MessageBody;
use actix_web::dev::{ServiceRequest, ServiceResponse};
use actix_web::middleware::Next;
use actix_web::{Error, HttpResponse, web};
use metrics_exporter_prometheus::{Matcher, PrometheusBuilder, PrometheusHandle};

use super::State;

/// Upper bounds of the buckets in which durations are counted, in seconds.
const BUCKETS: [f64; 10] = [0.005, 0.01, 0.025, 0.05, 0.1, 0.25, 0.5, 1.0, 2.5, 10.0];

/// Longer than this nobody waits for the database to say that it is there.
const PATIENCE: Duration = Duration::from_secs(2);

/// Registers `/healthz`, `/readyz` and `/metrics`.
pub fn configure(config: &mut web::ServiceConfig) {
    config
        .route("/healthz", web::get().to(healthy))
        .route("/readyz", web::get().to(ready))
        .route("/metrics", web::get().to(figures));
}

/// The process answers.
async fn healthy() -> HttpResponse {
    HttpResponse::Ok().content_type("text/plain; charset=utf-8").body("alive\n")
}

/// The process can do its work: the database answers.
async fn ready(state: web::Data<State>) -> HttpResponse {
    let answer = tokio::time::timeout(PATIENCE, sqlx::query("select 1").execute(&state.pool)).await;
    match answer {
        Ok(Ok(_)) => HttpResponse::Ok().content_type("text/plain; charset=utf-8").body("ready\n"),
        _ => {
            let message = "not ready: the database does not answer\n";
            HttpResponse::ServiceUnavailable().content_type("text/plain; charset=utf-8").body(message)
        }
    }
}

/// The Prometheus text format.
async fn figures(state: web::Data<State>) -> HttpResponse {
    let (models, bytes) = state.live.figures();
    metrics::gauge!("strelm_models").set(models as f64);
    metrics::gauge!("strelm_models_bytes").set(bytes as f64);
    metrics::gauge!("strelm_database_connections").set(f64::from(state.pool.size()));
    metrics::gauge!("strelm_database_connections_idle").set(state.pool.num_idle() as f64);
    if let Ok(work) = strelm_store::work::under_way(&state.pool).await {
        metrics::gauge!("strelm_readings_under_way").set(work.readings as f64);
        metrics::gauge!("strelm_releases_under_way").set(work.releases as f64);
        metrics::gauge!("strelm_releases_interrupted").set(work.interrupted as f64);
    }
    match recorder() {
        Some(handle) => {
            handle.run_upkeep();
            HttpResponse::Ok().content_type("text/plain; version=0.0.4; charset=utf-8").body(handle.render())
        }
        None => HttpResponse::ServiceUnavailable().body("figures are not kept in this process\n"),
    }
}

/// The one recorder of the process.
pub fn recorder() -> Option<&'static PrometheusHandle> {
    static RECORDER: OnceLock<Option<PrometheusHandle>> = OnceLock::new();
    let install = || {
        let durations = Matcher::Suffix("_seconds".to_owned());
        let builder = PrometheusBuilder::new().set_buckets_for_metric(durations, &BUCKETS).ok()?;
        let handle = builder.install_recorder().ok()?;
        metrics::describe_counter!("strelm_requests_total", "Requests answered, by route and status");
        metrics::describe_histogram!("strelm_request_duration_seconds", "How long requests took, by route");
        metrics::describe_gauge!("strelm_models", "Models of sites in memory");
        metrics::describe_gauge!("strelm_models_bytes", "About how many bytes the models take");
        metrics::describe_gauge!("strelm_database_connections", "Connections to the database");
        metrics::describe_gauge!("strelm_database_connections_idle", "Connections to the database that wait");
        metrics::describe_gauge!("strelm_readings_under_way", "Readings that wait or run");
        metrics::describe_gauge!("strelm_releases_under_way", "Releases that wait, run or are being taken back");
        metrics::describe_gauge!("strelm_releases_interrupted", "Releases that wait for a decision");
        Some(handle)
    };
    RECORDER.get_or_init(install).as_ref()
}

/// Middleware that counts requests. Routes are counted, not addresses: those would be without number.
///
/// # Errors
/// Those of the inner service.
pub async fn count(
    request: ServiceRequest,
    next: Next<impl MessageBody + 'static>,
) -> Result<ServiceResponse<impl MessageBody>, Error> {
    let begin = Instant::now();
    let method = request.method().as_str().to_owned();
    let response = next.call(request).await?;
    let route = response.request().match_pattern().unwrap_or_else(|| "other".to_owned());
    let status = response.status().as_u16().to_string();
    metrics::histogram!("strelm_request_duration_seconds", "route" => route.clone(), "method" => method.clone())
        .record(begin.elapsed().as_secs_f64());
    metrics::counter!("strelm_requests_total", "route" => route, "method" => method, "status" => status).increment(1);
    Ok(response)
}
