package dachshund.standins.opcua;

import static org.assertj.core.api.Assertions.assertThat;

import java.nio.file.Files;
import java.nio.file.Path;
import java.util.stream.Stream;
import org.junit.jupiter.api.Test;
import org.junit.jupiter.api.io.TempDir;

class ServerIdentityTest {

    @TempDir
    private Path folder;

    @Test
    void theSimulatedServerIsTheSameOneAfterARestartAndOneThatIsDamagedAnother() throws Exception {
        Path file = folder.resolve("plant").resolve("identity.p12");
        ServerIdentity first = ServerIdentity.kept(file);
        ServerIdentity again = ServerIdentity.kept(file);
        assertThat(again.certificate()).isEqualTo(first.certificate());
        assertThat(again.keys().getPrivate()).isEqualTo(first.keys().getPrivate());
        Files.write(file, new byte[0]);
        ServerIdentity other = ServerIdentity.kept(file);
        assertThat(other.certificate()).isNotEqualTo(first.certificate());
        assertThat(ServerIdentity.kept(file).certificate()).isEqualTo(other.certificate());
        try (Stream<Path> files = Files.list(file.getParent())) {
            assertThat(files).containsExactly(file);
        }
    }
}
