package dachshund.engine.archive;

import dachshund.core.archive.Marks;
import dachshund.core.archive.Series;
import dachshund.core.time.OpcUaTime;
import java.io.BufferedWriter;
import java.io.FileOutputStream;
import java.io.IOException;
import java.io.OutputStreamWriter;
import java.io.Writer;
import java.nio.charset.StandardCharsets;
import java.nio.file.Files;
import java.nio.file.Path;
import java.time.Instant;
import java.util.Locale;

/**
 * Values that the store refuses for a reason that nobody thought of, so that they hold up nobody else's: a file beside the
 * journal, as CSV that can be brought in again.
 */
final class RefusedValues {

    private final Path folder;

    RefusedValues(Path folder) {
        this.folder = folder;
    }

    /**
     * Writes them, forced to disk.
     *
     * @param tag its full name
     * @return the file
     */
    Path keep(String tag, long key, Series values, Instant now) throws IOException {
        Files.createDirectories(folder);
        Path file = folder.resolve(
                String.format(Locale.ROOT, "%s-%016x.csv", now.toString().replace(":", ""), key));
        try (FileOutputStream bytes = new FileOutputStream(file.toFile());
                Writer to = new BufferedWriter(new OutputStreamWriter(bytes, StandardCharsets.UTF_8))) {
            to.write("tag,time,value,quality\n");
            for (int i = 0; i < values.size(); i++) {
                if (!Marks.isGap(values.mark(i))) {
                    to.write(quoted(tag) + "," + OpcUaTime.toInstant(values.time(i)) + ","
                            + quoted(values.value(i).map(Object::toString).orElse("")) + ","
                            + String.format(
                                    Locale.ROOT,
                                    "0x%08X",
                                    Marks.quality(values.mark(i)).code())
                            + "\n");
                }
            }
            to.flush();
            bytes.getFD().sync();
        }
        return file;
    }

    private static String quoted(String text) {
        return '"' + text.replace("\"", "\"\"") + '"';
    }
}
