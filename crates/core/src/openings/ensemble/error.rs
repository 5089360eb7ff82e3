//! Why trees cannot be asked.

use thiserror::Error;

/// Why weights are no ensemble.
#[derive(Debug, Clone, PartialEq, Eq, Error)]
pub enum EnsembleError {
    #[error("line {0} of the weights cannot be understood")]
    Line(usize),
    #[error("line {0} of the weights lets a part judge what belongs to another")]
    Part(usize),
    #[error("a tree asks too many questions in a row")]
    Deep,
}
