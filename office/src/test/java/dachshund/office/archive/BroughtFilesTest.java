package dachshund.office.archive;

import static org.assertj.core.api.Assertions.assertThat;
import static org.assertj.core.api.Assertions.assertThatThrownBy;
import static org.mockito.Mockito.mock;
import static org.mockito.Mockito.when;

import dachshund.office.own.DachshundSettings;
import java.io.ByteArrayInputStream;
import java.io.IOException;
import java.io.InputStream;
import java.io.SequenceInputStream;
import java.nio.charset.StandardCharsets;
import java.nio.file.Files;
import java.nio.file.Path;
import java.util.List;
import java.util.stream.Stream;
import org.junit.jupiter.api.BeforeEach;
import org.junit.jupiter.api.Test;
import org.junit.jupiter.api.io.TempDir;

/** Files that people bring: whole, or not at all. */
class BroughtFilesTest {

    @TempDir
    private Path var;

    private BroughtFiles files;

    @BeforeEach
    void open() {
        DachshundSettings settings = mock(DachshundSettings.class);
        when(settings.var()).thenReturn(var);
        files = new BroughtFiles(settings);
    }

    private static InputStream content() {
        return new ByteArrayInputStream("tag,time,value\n".getBytes(StandardCharsets.UTF_8));
    }

    private List<Path> onDisk() throws IOException {
        try (Stream<Path> found = Files.list(var.resolve("brought"))) {
            return found.toList();
        }
    }

    @Test
    void ofWhatBreaksOffNothingStays() throws IOException {
        InputStream away = InputStream.nullInputStream();
        away.close();
        assertThatThrownBy(() -> files.take("half.csv", new SequenceInputStream(content(), away)))
                .hasMessage("Stream closed");
        assertThatThrownBy(() -> files.write("half.csv", to -> {
                    to.write(65);
                    throw new IllegalStateException("the table is gone");
                }))
                .hasMessage("the table is gone");
        assertThat(onDisk()).isEmpty();
    }

    @Test
    void theOldestGoWhereThereAreManyAndNoneOutlivesARestart() throws IOException {
        String first = files.take("first.csv", content()).id();
        for (int i = 0; i < 10; i++) {
            files.take(i + ".csv", content());
        }
        assertThat(files.find(first)).isEmpty();
        assertThat(onDisk()).hasSize(10);
        open();
        assertThat(onDisk()).isEmpty();
    }
}
