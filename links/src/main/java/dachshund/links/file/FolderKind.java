package dachshund.links.file;

import dachshund.core.destination.AppendingKind;
import dachshund.core.destination.RowStore;
import dachshund.core.destination.StoreProblem;
import dachshund.core.destination.WriteMode;
import dachshund.core.reach.Outside;
import dachshund.core.source.SettingField;
import dachshund.core.sql.Dialect;
import java.io.IOException;
import java.nio.ByteBuffer;
import java.nio.channels.FileChannel;
import java.nio.charset.StandardCharsets;
import java.nio.file.Files;
import java.nio.file.Path;
import java.nio.file.StandardOpenOption;
import java.time.ZoneId;
import java.util.List;
import java.util.Map;
import java.util.stream.Stream;

/** A folder of CSV, JSON Lines or XLSX files as a destination. All of them lie under one folder, which nothing here leaves. */
public final class FolderKind implements AppendingKind {

    private static final Dialect DIALECT = new FileDialect();

    private final Inside root;
    private final ZoneId zone;
    /** Who writes a line holds up whoever writes to the same file, and hardly anybody else. */
    private final Object[] writing = Stream.generate(Object::new).limit(64).toArray();

    /** @param zone plant time */
    public FolderKind(Path root, ZoneId zone) {
        this.root = new Inside(root);
        this.zone = zone;
    }

    @Override
    public String id() {
        return "folder";
    }

    @Override
    public String title() {
        return "Files in a folder";
    }

    @Override
    public List<SettingField> settings() {
        return FileSettings.fields();
    }

    @Override
    public Dialect dialect() {
        return DIALECT;
    }

    @Override
    public List<Class<? extends WriteMode>> modes() {
        return List.of(WriteMode.Insert.class);
    }

    @Override
    public boolean files() {
        return true;
    }

    @Override
    public void append(Map<String, String> settings, Outside outside, String file, String header, String line)
            throws StoreProblem {
        Path folder = FileSettings.of(root, zone, settings).folder();
        Path path = folder.resolve(file).normalize();
        try {
            root.check(path);
            if (!folder.equals(path.getParent())) {
                String lies = file + " lies outside the folder " + folder.getFileName() + ".";
                throw new StoreProblem(StoreProblem.Kind.TABLE, -1, lies, null);
            }
            synchronized (writing[Math.floorMod(path.hashCode(), writing.length)]) {
                append(path, header, line);
            }
        } catch (Inside.Left left) {
            throw new StoreProblem(StoreProblem.Kind.TABLE, -1, left.getMessage(), left);
        } catch (IOException cannot) {
            String why = "The line was not written to " + file + ": " + FileStore.reason(cannot) + ".";
            throw new StoreProblem(StoreProblem.Kind.AWAY, -1, why, cannot);
        }
    }

    private static void append(Path path, String header, String line) throws IOException {
        Files.createDirectories(path.getParent());
        try (FileChannel channel =
                FileChannel.open(path, StandardOpenOption.CREATE, StandardOpenOption.READ, StandardOpenOption.WRITE)) {
            long end = channel.size();
            // Lines of CSV end as RFC 4180 has them.
            String ends = header.isEmpty() ? "\n" : "\r\n";
            String first = end > 0 ? (endsALine(channel, end) ? "" : ends) : header.isEmpty() ? "" : header + ends;
            ByteBuffer bytes = ByteBuffer.wrap((first + line + ends).getBytes(StandardCharsets.UTF_8));
            channel.position(end);
            while (bytes.hasRemaining()) {
                channel.write(bytes);
            }
            channel.force(true);
        }
    }

    private static boolean endsALine(FileChannel channel, long end) throws IOException {
        ByteBuffer last = ByteBuffer.allocate(1);
        return channel.read(last, end - 1) == 1 && last.get(0) == '\n';
    }

    @Override
    public RowStore open(Map<String, String> settings, Outside outside) {
        return new FileStore(FileSettings.of(root, zone, settings));
    }
}
