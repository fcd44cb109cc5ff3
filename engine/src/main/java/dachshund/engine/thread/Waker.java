package dachshund.engine.thread;

/** Wakes a worker that exists only after whoever wakes it. What comes before the worker is there is not lost: it is woken then. */
public final class Waker implements Runnable {

    private volatile Worker worker;

    /** From now on this one is woken. */
    public Worker wakes(Worker started) {
        worker = started;
        started.wake();
        return started;
    }

    @Override
    public void run() {
        Worker known = worker;
        if (known != null) {
            known.wake();
        }
    }
}
