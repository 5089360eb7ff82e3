use std::process::ExitCode;

/// What went wrong is said in a sentence; whoever looks for the place of it has the log.
fn main() -> ExitCode {
    match strelm_server::command::run() {
        Ok(()) => ExitCode::SUCCESS,
        // Whoever read what was printed has enough of it.
        Err(error) if is_closed_pipe(&error) => ExitCode::SUCCESS,
        Err(error) => {
            eprintln!("strelm: {error:#}");
            ExitCode::FAILURE
        }
    }
}

fn is_closed_pipe(error: &anyhow::Error) -> bool {
    let mut causes = error.chain().filter_map(|cause| cause.downcast_ref::<std::io::Error>());
    causes.any(|cause| cause.kind() == std::io::ErrorKind::BrokenPipe)
}
