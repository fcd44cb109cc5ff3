package dachshund.office.definition;

import com.fasterxml.jackson.core.JsonProcessingException;
import com.fasterxml.jackson.databind.ObjectMapper;
import dachshund.core.definition.Definition;
import dachshund.core.definition.DefinitionCodec;
import dachshund.core.secret.SecretBox;
import java.io.IOException;
import java.nio.BufferUnderflowException;
import java.nio.ByteBuffer;
import java.nio.channels.FileChannel;
import java.nio.charset.StandardCharsets;
import java.nio.file.Files;
import java.nio.file.Path;
import java.nio.file.StandardCopyOption;
import java.nio.file.StandardOpenOption;
import java.util.ArrayList;
import java.util.Arrays;
import java.util.HashSet;
import java.util.LinkedHashMap;
import java.util.List;
import java.util.Map;
import java.util.Optional;
import java.util.Set;

/**
 * The live definitions in one sealed file, so that the application can record while our own database is away. A release adds
 * what it changed at the end; a file that has grown to twice its size is written anew, and one of
 * which most changes. A part of a release that was cut off is as if it had not been written.
 */
public final class LiveFile {

    private static final ObjectMapper JSON = new ObjectMapper();
    private static final byte[] HEAD = "dachshund live 2\n".getBytes(StandardCharsets.US_ASCII);
    private static final int MOST_IN_A_PART = 200;
    private static final int LEAST_BEFORE_ANEW = 1 << 20;

    private final Path file;
    private final SecretBox secrets;

    private boolean looked;
    private Held held = new Held();

    /** What was live, and by which release. */
    public record Live(long release, List<Definition> definitions) {}

    /**
     * One sealed part.
     *
     * @param nth  from 0; none is missing and none is there twice
     * @param more whether the release goes on in the next part
     * @param is   documents of what is new or changed
     * @param gone ids of what was removed
     */
    private record Part(long nth, boolean more, long release, List<String> is, List<String> gone) {}

    /** Files of before were one sealed text. */
    private record Whole(long release, String[] definitions) {}

    /** What the file holds. */
    private static final class Held {
        private final Map<String, Definition> byId = new LinkedHashMap<>();
        private long release;
        private long parts;
        private long end;
        private long whenAnew;

        Live live() {
            return new Live(release, List.copyOf(byId.values()));
        }
    }

    /** @param var folder of the installation */
    public LiveFile(Path var, SecretBox secrets) {
        this.file = var.resolve("live-definitions.sealed");
        this.secrets = secrets;
    }

    /** Keeps what is live from now on; forced to disk when this returns. */
    synchronized void write(Live live) throws IOException {
        if (!secrets.lost().isEmpty()) {
            throw new IOException(secrets.lost());
        }
        if (!looked) {
            try {
                read();
            } catch (IOException damaged) {
                held = new Held();
            }
        }
        Map<String, Definition> before = held.byId;
        List<Definition> is = live.definitions().stream()
                .filter(each -> !each.equals(before.get(each.id())))
                .toList();
        Set<String> gone = new HashSet<>(before.keySet());
        live.definitions().forEach(each -> gone.remove(each.id()));
        if (is.isEmpty() && gone.isEmpty() && live.release() == held.release && isThere()) {
            return;
        }
        boolean anew = held.parts == 0
                || is.size() > live.definitions().size() / 2
                || held.end > Math.max(LEAST_BEFORE_ANEW, 2 * held.whenAnew)
                || !isThere();
        Held next = new Held();
        live.definitions().forEach(each -> next.byId.put(each.id(), each));
        next.release = live.release();
        if (anew) {
            anew(next);
        } else {
            add(next, is, gone);
        }
        held = next;
    }

    /** Whether all of what was written is there: whoever took some of it away is not written behind. */
    private boolean isThere() throws IOException {
        return Files.exists(file) && Files.size(file) >= held.end;
    }

    private void anew(Held next) throws IOException {
        Path fresh = file.resolveSibling(file.getFileName() + ".new");
        Files.createDirectories(file.getParent());
        try (FileChannel channel = FileChannel.open(
                fresh, StandardOpenOption.CREATE, StandardOpenOption.TRUNCATE_EXISTING, StandardOpenOption.WRITE)) {
            write(channel, ByteBuffer.wrap(HEAD));
            next.parts = write(channel, 0, next.release, List.copyOf(next.byId.values()), List.of());
            channel.force(true);
            next.end = channel.position();
            next.whenAnew = next.end;
        }
        Files.move(fresh, file, StandardCopyOption.ATOMIC_MOVE, StandardCopyOption.REPLACE_EXISTING);
    }

    private void add(Held next, List<Definition> is, Set<String> gone) throws IOException {
        try (FileChannel channel = FileChannel.open(file, StandardOpenOption.WRITE)) {
            channel.truncate(held.end);
            channel.position(held.end);
            next.parts = write(channel, held.parts, next.release, is, List.copyOf(gone));
            channel.force(true);
            next.end = channel.position();
            next.whenAnew = held.whenAnew;
        }
    }

    private long write(FileChannel channel, long nth, long release, List<Definition> is, List<String> gone)
            throws IOException {
        int from = 0;
        long next = nth;
        do {
            int to = Math.min(is.size(), from + MOST_IN_A_PART);
            boolean more = to < is.size();
            Part part = new Part(
                    next++,
                    more,
                    release,
                    is.subList(from, to).stream().map(DefinitionCodec::write).toList(),
                    more ? List.of() : gone);
            byte[] sealed = secrets.seal(JSON.writeValueAsBytes(part));
            write(
                    channel,
                    ByteBuffer.allocate(Integer.BYTES + sealed.length)
                            .putInt(sealed.length)
                            .put(sealed)
                            .flip());
            from = to;
        } while (from < is.size());
        return next;
    }

    private static void write(FileChannel channel, ByteBuffer bytes) throws IOException {
        while (bytes.hasRemaining()) {
            channel.write(bytes);
        }
    }

    /** What {@link #read} or {@link #write} saw last; reads where neither did. */
    synchronized Optional<Live> live() throws IOException {
        if (!looked) {
            return read();
        }
        return held.release == 0 && held.byId.isEmpty() ? Optional.empty() : Optional.of(held.live());
    }

    /** @throws IOException where the file is there but cannot be read or opened with our key */
    public synchronized Optional<Live> read() throws IOException {
        looked = true;
        held = new Held();
        if (!Files.exists(file)) {
            return Optional.empty();
        }
        Held found = new Held();
        byte[] bytes = Files.readAllBytes(file);
        try {
            if (bytes.length >= HEAD.length && Arrays.equals(bytes, 0, HEAD.length, HEAD, 0, HEAD.length)) {
                parts(ByteBuffer.wrap(bytes), found);
            } else {
                whole(bytes, found);
            }
        } catch (JsonProcessingException | IllegalArgumentException | BufferUnderflowException damaged) {
            throw new IOException("The file " + file + " cannot be read: " + damaged.getMessage(), damaged);
        }
        held = found;
        return Optional.of(found.live());
    }

    private void whole(byte[] bytes, Held found) throws JsonProcessingException {
        Whole whole = JSON.readValue(new String(secrets.open(bytes), StandardCharsets.UTF_8), Whole.class);
        found.release = whole.release();
        for (String document : whole.definitions()) {
            Definition definition = DefinitionCodec.read(document);
            found.byId.put(definition.id(), definition);
        }
    }

    private void parts(ByteBuffer bytes, Held found) throws JsonProcessingException {
        bytes.position(HEAD.length);
        found.end = HEAD.length;
        List<Part> open = new ArrayList<>();
        long nth = 0;
        while (bytes.remaining() >= Integer.BYTES) {
            int length = bytes.getInt();
            if (length <= 0) {
                throw new IllegalArgumentException("a part of " + length + " bytes");
            }
            if (bytes.remaining() < length) {
                break; // cut off while it was written
            }
            byte[] sealed = new byte[length];
            bytes.get(sealed);
            Part part = JSON.readValue(new String(secrets.open(sealed), StandardCharsets.UTF_8), Part.class);
            if (part.nth() != nth) {
                throw new IllegalArgumentException("part " + nth + " is missing");
            }
            nth++;
            open.add(part);
            if (!part.more()) {
                open.forEach(each -> take(each, found));
                open.clear();
                found.parts = nth;
                found.end = bytes.position();
                found.whenAnew = found.whenAnew == 0 ? found.end : found.whenAnew;
            }
        }
    }

    private static void take(Part part, Held found) {
        found.release = part.release();
        part.gone().forEach(found.byId::remove);
        for (String document : part.is()) {
            Definition definition = DefinitionCodec.read(document);
            found.byId.put(definition.id(), definition);
        }
    }
}
