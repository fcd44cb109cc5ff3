package dachshund.office.archive;

import static org.assertj.core.api.Assertions.assertThat;
import static org.mockito.Mockito.mock;
import static org.mockito.Mockito.never;
import static org.mockito.Mockito.verify;
import static org.mockito.Mockito.when;

import dachshund.core.archive.KeptFor;
import dachshund.core.time.PlantClock;
import dachshund.engine.Engine;
import dachshund.engine.clock.ClockDoubt;
import dachshund.engine.local.LocalStore;
import dachshund.office.own.OwnDatabase;
import java.nio.file.Path;
import java.time.Duration;
import java.time.Instant;
import java.time.ZoneOffset;
import java.util.Map;
import java.util.Optional;
import org.junit.jupiter.api.Test;
import org.junit.jupiter.api.io.TempDir;

class UpkeepTest {

    private static final Instant NIGHT = Instant.parse("2036-11-30T03:00:00Z");

    @TempDir
    Path folder;

    /** For a clock that is years ahead every value is older than it is kept. */
    @Test
    void whileTheClockIsDoubtedNoValueGoes() throws Exception {
        OldBlocks old = mock(OldBlocks.class);
        when(old.lasting()).thenReturn(Map.of(1L, new KeptFor(90, 0)));
        Engine engine = mock(Engine.class);
        PlantClock clock = () -> NIGHT;
        when(engine.zone()).thenReturn(ZoneOffset.UTC);
        when(engine.clockDoubt())
                .thenReturn(
                        Optional.of(new ClockDoubt.Doubt(NIGHT, NIGHT.plus(ClockDoubt.LASTS), Duration.ofDays(3653))));
        try (LocalStore local = new LocalStore(folder.resolve("local.db"))) {
            when(engine.local()).thenReturn(local);
            Upkeep upkeep = new Upkeep(mock(BlockTable.class), old, engine, clock, mock(OwnDatabase.class));
            assertThat(upkeep.removeOld()).isFalse();
            verify(old, never()).lasting();
            when(engine.clockDoubt()).thenReturn(Optional.empty());
            upkeep.removeOld();
            verify(old).lasting();
        }
    }
}
