//! Memory for many files, read and judged by all threads at the same time.

/// So far the heap of each thread grows ahead of the work, in bytes.
const HEAP_AHEAD: usize = 30 << 20;

/// Lets the heap of every thread grow in one go. The GNU library's allocator otherwise asks the system for a few kilobytes at a time, many
/// thousand times, while the other threads wait for it. The first block, once given back, tells it to serve blocks of that size from the
/// heap, where the second one of each thread comes from. Nothing is written to them, so that they take no memory.
pub fn grow_heaps() {
    // One of the threads themselves would wait here for all others, and those for it.
    if rayon::current_thread_index().is_some() {
        return;
    }
    static ONCE: std::sync::Once = std::sync::Once::new();
    let ask = |bytes| {
        let mut block: Vec<u8> = Vec::new();
        // Where there is not so much, the heap grows as it did.
        let _ = std::hint::black_box(block.try_reserve_exact(bytes));
        std::hint::black_box(block);
    };
    ONCE.call_once(|| {
        ask(HEAP_AHEAD);
        rayon::broadcast(|_| ask(HEAP_AHEAD - (1 << 20)));
    });
}
