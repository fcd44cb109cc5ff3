package dachshund.drill;

import ch.qos.logback.classic.Level;
import ch.qos.logback.classic.Logger;
import dachshund.drill.simulation.Simulation;
import dachshund.standins.PrivateProcess;
import java.io.IOException;
import java.io.PrintWriter;
import java.io.StringWriter;
import java.nio.file.Files;
import java.nio.file.Path;
import java.util.ArrayList;
import java.util.Collections;
import java.util.List;
import java.util.concurrent.ExecutorService;
import java.util.concurrent.Executors;
import java.util.concurrent.Future;
import java.util.concurrent.atomic.AtomicLong;
import java.util.stream.Collectors;
import org.slf4j.LoggerFactory;

/** Some lives each of many simulated machines, under the faults of a seed: {@code --seeds=10000 --seed=1}; one alone tells what happened. */
final class SimulatorDrill implements Drill.Exercise {

    private static final int SHOWN = 5;
    private static final int TOLD_EACH = 1000;

    @Override
    public boolean run(Drill.Options options) throws Exception {
        int first = options.number("seed", 1);
        int count = options.number("seeds", 10_000);
        boolean tells = count == 1;
        // A simulated machine complains of everything that is done to it.
        ((Logger) LoggerFactory.getLogger("dachshund.engine")).setLevel(Level.OFF);
        AtomicLong rows = new AtomicLong();
        AtomicLong lives = new AtomicLong();
        AtomicLong lost = new AtomicLong();
        List<String> wrong = Collections.synchronizedList(new ArrayList<>());
        ExecutorService threads =
                Executors.newFixedThreadPool(Runtime.getRuntime().availableProcessors());
        List<Future<?>> all = new ArrayList<>();
        for (int i = 0; i < count; i++) {
            long seed = (long) first + i;
            all.add(threads.submit(() -> {
                Simulation.Outcome outcome = one(seed, tells);
                rows.addAndGet(outcome.rows());
                lives.addAndGet(outcome.lives());
                lost.addAndGet(outcome.lost());
                if (tells) {
                    System.out.print(outcome.told());
                }
                if (!outcome.wrong().isEmpty()) {
                    wrong.add("seed " + seed + ": "
                            + outcome.wrong().stream().limit(SHOWN).collect(Collectors.joining("\n  ")));
                }
                return null;
            }));
        }
        try {
            for (int i = 0; i < count; i++) {
                all.get(i).get();
                if ((i + 1) % TOLD_EACH == 0) {
                    System.out.printf("%s %,d seeds, %d of them wrong%n", Drill.time(), i + 1, wrong.size());
                }
            }
        } finally {
            threads.shutdownNow();
        }
        wrong.stream().limit(options.number("show", SHOWN)).forEach(System.out::println);
        System.out.printf(
                "%,d seeds, %,d lives: %,d rows in the tables; %,d changes lost whose bytes were not forced when the power went; %d seeds are wrong.%n",
                count, lives.get(), rows.get(), lost.get(), wrong.size());
        return wrong.isEmpty();
    }

    private static Simulation.Outcome one(long seed, boolean tells) throws IOException {
        Path memory = Path.of("/dev/shm");
        Path folder = Files.isDirectory(memory)
                ? Files.createTempDirectory(memory, "dachshund-simulation")
                : Files.createTempDirectory("dachshund-simulation");
        try {
            return Simulation.run(seed, folder, tells);
        } catch (RuntimeException | Error thrown) {
            StringWriter trace = new StringWriter();
            thrown.printStackTrace(new PrintWriter(trace));
            return new Simulation.Outcome(0, 0, 0, List.of("it threw " + trace), "");
        } finally {
            PrivateProcess.remove(folder);
        }
    }
}
