package dachshund.office.definition;

import com.fasterxml.jackson.core.JsonProcessingException;
import com.fasterxml.jackson.databind.ObjectMapper;
import dachshund.core.definition.Definition;
import dachshund.core.definition.DefinitionCodec;
import dachshund.core.secret.SecretBox;
import dachshund.office.own.DachshundSettings;
import java.io.IOException;
import java.nio.channels.FileChannel;
import java.nio.charset.StandardCharsets;
import java.nio.file.Files;
import java.nio.file.Path;
import java.nio.file.StandardCopyOption;
import java.nio.file.StandardOpenOption;
import java.util.Arrays;
import java.util.List;
import java.util.Optional;
import org.springframework.stereotype.Component;

/**
 * The live definitions in one sealed file, written at each release, so that the application can record while our own
 * database is away. Replaced as a whole or not at all.
 */
@Component
public class LiveFile {

    private static final ObjectMapper JSON = new ObjectMapper();

    private final Path file;
    private final SecretBox secrets;

    /** What was live, and by which release. */
    public record Live(long release, List<Definition> definitions) {}

    private record Content(long release, String[] definitions) {}

    public LiveFile(DachshundSettings settings, SecretBox secrets) {
        this.file = settings.var().resolve("live-definitions.sealed");
        this.secrets = secrets;
    }

    void write(Live live) throws IOException {
        if (!secrets.lost().isEmpty()) {
            throw new IOException(secrets.lost());
        }
        Content content = new Content(
                live.release(),
                live.definitions().stream().map(DefinitionCodec::write).toArray(String[]::new));
        byte[] sealed = secrets.seal(JSON.writeValueAsBytes(content));
        Path next = file.resolveSibling(file.getFileName() + ".new");
        Files.createDirectories(file.getParent());
        Files.write(next, sealed);
        try (FileChannel channel = FileChannel.open(next, StandardOpenOption.WRITE)) {
            channel.force(true);
        }
        Files.move(next, file, StandardCopyOption.ATOMIC_MOVE, StandardCopyOption.REPLACE_EXISTING);
    }

    /** @throws IOException where the file is there but cannot be read or opened with our key */
    public Optional<Live> read() throws IOException {
        if (!Files.exists(file)) {
            return Optional.empty();
        }
        try {
            Content content = JSON.readValue(
                    new String(secrets.open(Files.readAllBytes(file)), StandardCharsets.UTF_8), Content.class);
            return Optional.of(new Live(
                    content.release(),
                    Arrays.stream(content.definitions())
                            .map(DefinitionCodec::read)
                            .toList()));
        } catch (JsonProcessingException | IllegalArgumentException damaged) {
            throw new IOException("The file " + file + " cannot be read: " + damaged.getMessage(), damaged);
        }
    }
}
