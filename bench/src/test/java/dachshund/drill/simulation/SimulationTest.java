package dachshund.drill.simulation;

import static org.assertj.core.api.Assertions.assertThat;

import java.nio.file.Files;
import java.nio.file.Path;
import java.util.Random;
import org.junit.jupiter.api.Test;
import org.junit.jupiter.api.io.TempDir;

/** The drill "simulator", small. */
class SimulationTest {

    private static final int SEEDS = 150;

    @TempDir
    Path folder;

    @Test
    void whateverHappensEveryChangeIsThereOnceOrItsFateIsCounted() throws Exception {
        long rows = 0;
        long lost = 0;
        for (long seed = 1; seed <= SEEDS; seed++) {
            Simulation.Outcome outcome = run(seed);
            assertThat(outcome.wrong()).as("seed %d", seed).isEmpty();
            rows += outcome.rows();
            lost += outcome.lost();
        }
        assertThat(rows).as("rows that landed").isGreaterThan(5_000);
        assertThat(lost).as("changes that a loss of power took").isPositive();
    }

    @Test
    void aSeedIsTheSameLifeEachTime() throws Exception {
        long seed = new Random().nextInt(100_000);
        Simulation.Outcome first = run(seed);
        Simulation.Outcome second = run(seed);
        assertThat(second).as("seed %d", seed).isEqualTo(first);
    }

    private Simulation.Outcome run(long seed) throws Exception {
        return Simulation.run(seed, Files.createTempDirectory(folder, "seed" + seed), true);
    }
}
