package dachshund.drill.simulation;

import dachshund.engine.thread.Hands;
import dachshund.engine.thread.Worker;
import java.time.Duration;
import java.util.ArrayList;
import java.util.List;
import java.util.concurrent.AbstractExecutorService;
import java.util.concurrent.ExecutorService;
import java.util.concurrent.TimeUnit;
import java.util.function.BooleanSupplier;
import java.util.function.LongSupplier;

/** Nobody works by himself: chance says whose turn it is, on the one thread of the simulation. */
final class Turns implements Hands {

    private static final Duration WHILE_WAITING = Duration.ofMillis(20);

    private final World world;
    private final List<Repeated> workers = new ArrayList<>();
    private final List<Runnable> later = new ArrayList<>();
    /** Whether whoever gives work waits for it until it is done. */
    boolean atOnce;

    Turns(World world) {
        this.world = world;
    }

    private static final class Repeated implements Worker {

        private final LongSupplier step;
        private boolean closed;

        private Repeated(LongSupplier step) {
            this.step = step;
        }

        /** Its turn may come sooner than it asks for. */
        private void once() {
            long pause = step.getAsLong();
            if (pause < 0) {
                throw new IllegalStateException("A pause of " + pause + " ns.");
            }
        }

        @Override
        public void wake() {
            // its turn comes
        }

        @Override
        public boolean close(Duration limit) {
            closed = true;
            return true;
        }
    }

    @Override
    public Worker start(String name, LongSupplier step) {
        Repeated worker = new Repeated(step);
        workers.add(worker);
        return worker;
    }

    @Override
    public ExecutorService few(String name, int threads) {
        return new Given(name.startsWith("writes-"));
    }

    @Override
    public ExecutorService onDemand(String name) {
        return new Given(false);
    }

    /** One step of one of those that repeat theirs. */
    void step() {
        List<Repeated> open = workers.stream().filter(each -> !each.closed).toList();
        if (!open.isEmpty()) {
            Repeated one = open.get(world.random.nextInt(open.size()));
            run(one::once);
        }
    }

    /** One piece of work that waits for its turn. */
    void piece() {
        if (!later.isEmpty()) {
            run(later.remove(world.random.nextInt(later.size())));
        }
    }

    @Override
    public boolean await(BooleanSupplier done, Duration limit) {
        long until = world.nanos() + limit.toNanos();
        while (!done.getAsBoolean() && !world.ended() && world.nanos() < until) {
            step();
            piece();
            world.pass(WHILE_WAITING);
        }
        world.alive();
        return done.getAsBoolean();
    }

    /** All that waits. */
    void all() {
        while (!later.isEmpty() && !world.ended()) {
            piece();
        }
    }

    private static void run(Runnable work) {
        try {
            work.run();
        } catch (World.Ended ended) {
            // seen by whoever asks whether the world has ended
        }
    }

    private final class Given extends AbstractExecutorService {

        private final boolean waitedFor;
        private boolean down;

        private Given(boolean waitedFor) {
            this.waitedFor = waitedFor;
        }

        @Override
        public void execute(Runnable work) {
            if (waitedFor || atOnce || world.chance(0.3)) {
                work.run();
            } else {
                later.add(work);
            }
        }

        @Override
        public void shutdown() {
            down = true;
        }

        @Override
        public List<Runnable> shutdownNow() {
            down = true;
            return List.of();
        }

        @Override
        public boolean isShutdown() {
            return down;
        }

        @Override
        public boolean isTerminated() {
            return down;
        }

        @Override
        public boolean awaitTermination(long timeout, TimeUnit unit) {
            return true;
        }
    }
}
