package dachshund.engine.thread;

import java.util.concurrent.ExecutionException;
import java.util.concurrent.FutureTask;
import java.util.concurrent.LinkedBlockingQueue;

/**
 * A thread that records, or may: it has the whole share of the processor. On Linux a thread begins with the share of the one that
 * starts it, and can never have more again without a privilege; so all of these are started by one that nothing was taken
 * from, also those that a page asks for.
 */
final class RecordingThread extends Thread {

    private static final LinkedBlockingQueue<FutureTask<?>> TO_START = new LinkedBlockingQueue<>();

    static {
        // With the first thread of the engine, before there are pages.
        Thread starting = new Thread(RecordingThread::startAll, "thread-starter");
        starting.setDaemon(true);
        starting.start();
    }

    RecordingThread(Runnable task, String name) {
        super(task, name);
        setDaemon(true);
    }

    private static void startAll() {
        while (true) {
            try {
                TO_START.take().run();
            } catch (InterruptedException | RuntimeException | Error defect) {
                // What was to be started has failed for whoever wants it; the next one is started all the same.
                tell(defect);
            }
        }
    }

    private static void tell(Throwable defect) {
        try {
            Threads.report(defect);
        } catch (RuntimeException | Error none) {
            // There is no room even to say so.
        }
    }

    /** @throws Error as a thread that starts itself, where there is no room for another one */
    @Override
    @SuppressWarnings("UnsynchronizedOverridesSynchronized") // the one that starts it holds the lock
    public void start() {
        FutureTask<?> starting = new FutureTask<>(super::start, null);
        TO_START.add(starting);
        boolean interrupted = false;
        try {
            while (true) {
                try {
                    starting.get();
                    return;
                } catch (InterruptedException later) {
                    interrupted = true;
                }
            }
        } catch (ExecutionException failed) {
            if (failed.getCause() instanceof Error none) {
                throw none;
            }
            throw (RuntimeException) failed.getCause();
        } finally {
            if (interrupted) {
                Thread.currentThread().interrupt();
            }
        }
    }
}
