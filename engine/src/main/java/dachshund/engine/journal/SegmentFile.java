package dachshund.engine.journal;

import java.io.IOException;
import java.nio.ByteBuffer;
import java.nio.channels.FileChannel;
import java.nio.charset.StandardCharsets;
import java.nio.file.Path;
import java.nio.file.StandardOpenOption;
import java.util.List;
import java.util.Optional;
import java.util.regex.Pattern;
import java.util.zip.CRC32C;

/**
 * One file of a journal: a head that says whose it is, entries, and once it is sealed a {@link Summary}. The file is named
 * after the position of its first entry.
 */
final class SegmentFile {

    /** Bytes before the first entry. */
    static final int HEAD = 64;

    static final String ENDING = ".journal";
    private static final long MARK = 0x4441_4348_4A52_4E31L;
    private static final int VERSION = 1;

    private final Disk disk;
    private final Path path;
    private final FileChannel channel;
    private final long base;
    private final String installation;
    private final String journal;
    private volatile Summary summary;
    /** Position behind the last entry, once it is sealed; -1 while it is open. */
    private volatile long end = -1;
    /** Where its entries end in the file, once it is sealed. */
    private volatile long entriesEnd;

    private SegmentFile(
            Disk disk,
            Path path,
            FileChannel channel,
            long base,
            String installation,
            String journal,
            Summary summary) {
        this.disk = disk;
        this.path = path;
        this.channel = channel;
        this.base = base;
        this.installation = installation;
        this.journal = journal;
        this.summary = summary;
    }

    /** Begins a new file; on disk when this returns. */
    static SegmentFile begin(Disk disk, Path folder, long base, String installation, String journal, Summary summary)
            throws IOException {
        Path path = folder.resolve(String.format("%019d%s", base, ENDING));
        FileChannel channel =
                disk.open(path, StandardOpenOption.CREATE, StandardOpenOption.READ, StandardOpenOption.WRITE);
        channel.truncate(0);
        ByteBuffer head = ByteBuffer.allocate(HEAD);
        head.putLong(MARK).putInt(VERSION).put(installation.getBytes(StandardCharsets.US_ASCII));
        head.put(journal.getBytes(StandardCharsets.US_ASCII)).putLong(base);
        CRC32C crc = new CRC32C();
        crc.update(head.array(), 0, HEAD - 4);
        head.putInt(HEAD - 4, (int) crc.getValue());
        write(channel, head.array(), 0, HEAD, 0);
        channel.force(true);
        disk.forceFolder(folder);
        return new SegmentFile(disk, path, channel, base, installation, journal, summary);
    }

    /** The files of this kind in a folder, oldest first; whatever else somebody left there is none. */
    static List<Path> in(Disk disk, Path folder) throws IOException {
        return disk.in(folder).stream()
                .filter(file -> file.getFileName().toString().matches("[0-9]{19}" + Pattern.quote(ENDING)))
                .toList();
    }

    /** Opens a file that is there. Its summary is empty where the file was not sealed. */
    static SegmentFile open(Disk disk, Path path) throws IOException {
        String name = String.valueOf(path.getFileName());
        long base = Long.parseLong(name.substring(0, name.length() - ENDING.length()));
        FileChannel channel = disk.open(path, StandardOpenOption.READ, StandardOpenOption.WRITE);
        ByteBuffer head = ByteBuffer.allocate(HEAD);
        String installation = "";
        String journal = "";
        if (Summary.fill(channel, head, 0)) {
            CRC32C crc = new CRC32C();
            crc.update(head.array(), 0, HEAD - 4);
            if (head.getLong() == MARK && head.getInt(HEAD - 4) == (int) crc.getValue() && head.getInt() == VERSION) {
                byte[] text = new byte[6 + 16];
                head.get(text);
                installation = new String(text, 0, 6, StandardCharsets.US_ASCII);
                journal = new String(text, 6, 16, StandardCharsets.US_ASCII);
            }
        }
        SegmentFile file = new SegmentFile(disk, path, channel, base, installation, journal, new Summary());
        Optional<Summary.Sealed> sealed = Summary.read(channel);
        if (sealed.isPresent()) {
            file.summary = sealed.get().summary();
            file.end = sealed.get().next();
            file.entriesEnd = sealed.get().entriesEnd();
        }
        return file;
    }

    /** The same file with what a damaged head did not say. */
    SegmentFile of(String otherInstallation, String otherJournal) {
        SegmentFile same = new SegmentFile(disk, path, channel, base, otherInstallation, otherJournal, summary);
        same.end = end;
        same.entriesEnd = entriesEnd;
        return same;
    }

    long base() {
        return base;
    }

    String installation() {
        return installation;
    }

    String journal() {
        return journal;
    }

    Summary summary() {
        return summary;
    }

    boolean sealed() {
        return end >= 0;
    }

    /** Position behind the last entry of a sealed file. */
    long end() {
        return end;
    }

    long entriesEnd() {
        return entriesEnd;
    }

    Path path() {
        return path;
    }

    long bytes() {
        try {
            return channel.size();
        } catch (IOException unknown) {
            return 0;
        }
    }

    FrameScanner scan(long position, Frame.Names names) {
        return new FrameScanner(channel, installation, base, HEAD + position - base, names);
    }

    /** Of a file whose positions have gaps: from its first entry on. */
    FrameScanner scanAll(Frame.Names names) {
        return new FrameScanner(channel, installation, -1, HEAD, names);
    }

    /** Writes entries at a position, not forced; the same bytes may be written again after a failure. */
    void write(byte[] bytes, int from, int length, long position) throws IOException {
        write(channel, bytes, from, length, HEAD + position - base);
    }

    /** Entries that were written are on disk when this returns. */
    void forceEntries() throws IOException {
        channel.force(false);
    }

    /** Writes entries at an offset of the file, not forced. */
    void writeAt(byte[] bytes, int length, long offset) throws IOException {
        write(channel, bytes, 0, length, offset);
    }

    private static void write(FileChannel channel, byte[] bytes, int from, int length, long at) throws IOException {
        ByteBuffer out = ByteBuffer.wrap(bytes, from, length);
        while (out.hasRemaining()) {
            channel.write(out, at + out.position() - from);
        }
    }

    /**
     * Ends the file with its summary.
     *
     * @param next position behind its last entry
     * @param offset where they end in the file
     */
    void seal(long next, long offset) throws IOException {
        byte[] tail = summary.seal(offset, next);
        channel.truncate(offset);
        write(channel, tail, 0, tail.length, offset);
        channel.force(true);
        entriesEnd = offset;
        end = next;
    }

    /**
     * Writes what is in it again and forces it. Where forcing failed in a process that is gone, the system may take the same
     * bytes for clean, give them to every reader, and never bring them to the disk.
     */
    void forceAgain() throws IOException {
        ByteBuffer some = ByteBuffer.allocate(1 << 20);
        long at = 0;
        for (int read = channel.read(some, at); read > 0; read = channel.read(some.clear(), at)) {
            write(channel, some.array(), 0, read, at);
            at += read;
        }
        channel.force(true);
    }

    /** What was written and perhaps not forced by a process that was killed. */
    void force() throws IOException {
        channel.force(true);
    }

    void cut(long offset) throws IOException {
        channel.truncate(offset);
        channel.force(true);
    }

    void close() throws IOException {
        channel.close();
    }

    void remove() throws IOException {
        channel.close();
        disk.remove(path);
    }
}
