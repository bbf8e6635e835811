//! A progress bar on standard error, once a run has taken longer than a second.

use std::cell::Cell;
use std::sync::mpsc;
use std::time::{Duration, Instant};

use indicatif::{ProgressBar, ProgressDrawTarget, ProgressStyle};

use super::layout::grouped;

/// How long a run may take before a bar is shown.
const PATIENCE: Duration = Duration::from_secs(1);

/// A progress bar over all bytes of a run's sources.
pub(crate) struct Bar {
    bar: ProgressBar,
    began: Instant,
    shown: Cell<bool>,
    wanted: bool,
}

impl Bar {
    /// A bar for so many bytes; a quiet run has none, and neither has one whose standard error is
    /// not a terminal.
    pub(crate) fn new(bytes: u64, quiet: bool) -> Self {
        let bar = ProgressBar::with_draw_target(Some(bytes), ProgressDrawTarget::hidden());
        let style = ProgressStyle::with_template("{prefix} {wide_bar} {percent:>3} %  {msg}  {eta} left");
        if let Ok(style) = style {
            bar.set_style(style.progress_chars("━╸ "));
        }
        Self { bar, began: Instant::now(), shown: Cell::new(false), wanted: !quiet }
    }

    /// What the passes over the sources report to: rows and bytes so far. One that goes through them again reports no
    /// rows, since they were counted.
    pub(crate) fn reader(&self, doing: &'static str) -> impl Fn(u64, u64) + '_ {
        self.bar.set_prefix(doing);
        let began = Cell::new(Instant::now());
        move |rows, bytes| {
            if !self.wanted || self.began.elapsed() < PATIENCE {
                return;
            }
            if !self.shown.replace(true) {
                self.bar.set_draw_target(ProgressDrawTarget::stderr());
            }
            if bytes < self.bar.position() {
                began.set(Instant::now());
                self.bar.reset_eta();
            }
            self.bar.set_position(bytes);
            let milliseconds = u64::try_from(began.get().elapsed().as_millis()).unwrap_or(u64::MAX).max(1);
            let in_a_second = |count: u64| grouped(count.saturating_mul(1000) / milliseconds);
            self.bar.set_message(match rows {
                0 => format!("{} MB/s", in_a_second(bytes / 1_000_000)),
                rows => format!("{} rows, {} rows/s", grouped(rows), in_a_second(rows)),
            });
        }
    }

    /// Takes the bar away.
    pub(crate) fn done(&self) {
        self.bar.finish_and_clear();
    }
}

/// Says what is going on while `work` takes long and cannot tell how far it has come.
pub(crate) fn waiting<T>(doing: String, quiet: bool, work: impl FnOnce() -> T) -> T {
    if quiet {
        return work();
    }
    std::thread::scope(|scope| {
        let (done, is_done) = mpsc::channel::<()>();
        scope.spawn(move || {
            if is_done.recv_timeout(PATIENCE) != Err(mpsc::RecvTimeoutError::Timeout) {
                return;
            }
            let spinner = ProgressBar::new_spinner().with_message(doing);
            spinner.enable_steady_tick(Duration::from_millis(120));
            // Ends when the work is done and its end of the channel is gone.
            let _ = is_done.recv();
            spinner.finish_and_clear();
        });
        let result = work();
        drop(done);
        result
    })
}
