package dachshund.web.tls;

import dachshund.core.time.PlantClock;
import dachshund.engine.thread.Threads;
import dachshund.engine.thread.Worker;
import dachshund.web.tls.ServerCertificate.CannotBeUsed;
import java.io.IOException;
import java.net.InetAddress;
import java.net.UnknownHostException;
import java.nio.file.Files;
import java.nio.file.Path;
import java.time.Instant;
import org.slf4j.Logger;
import org.slf4j.LoggerFactory;
import org.springframework.boot.ssl.DefaultSslBundleRegistry;
import org.springframework.boot.ssl.SslBundle;
import org.springframework.boot.ssl.SslStoreBundle;
import org.springframework.boot.web.embedded.tomcat.TomcatServletWebServerFactory;
import org.springframework.boot.web.server.Ssl;
import org.springframework.boot.web.server.WebServerFactoryCustomizer;
import org.springframework.context.event.ContextClosedEvent;
import org.springframework.context.event.EventListener;
import org.springframework.stereotype.Component;

/**
 * Serves the pages over TLS where a certificate is set. One that cannot be used keeps nothing from recording and no page from
 * coming up: a certificate of our own stands in, and every page says why. Files that were replaced are taken within a minute,
 * without a restart; where the new ones cannot be used, the old ones go on.
 */
@Component
public class PagesTls implements WebServerFactoryCustomizer<TomcatServletWebServerFactory> {

    private static final Logger LOG = LoggerFactory.getLogger(PagesTls.class);
    private static final String BUNDLE = "pages";
    private static final String GO_ON = " The pages go on with the one before.";
    private static final long LOOK_NANOS = 30_000_000_000L;

    private final PagesSettings settings;
    private final PlantClock clock;
    private final DefaultSslBundleRegistry bundles = new DefaultSslBundleRegistry();
    private volatile String trouble = "";
    private volatile Instant until = Instant.MAX;
    private String seen = "";
    private Worker watcher;

    PagesTls(PagesSettings settings, PlantClock clock) {
        this.settings = settings;
        this.clock = clock;
    }

    @Override
    public void customize(TomcatServletWebServerFactory factory) {
        if (!settings.overTls()) {
            return;
        }
        seen = state();
        ServerCertificate used;
        try {
            used = ServerCertificate.read(settings, clock.now());
        } catch (CannotBeUsed problem) {
            trouble = problem.getMessage();
            LOG.error("{} The pages are served with a certificate of our own until then.", trouble);
            used = ServerCertificate.standIn(host());
        }
        until = used.until();
        bundles.registerBundle(BUNDLE, bundle(used));
        Ssl ssl = Ssl.forBundle(BUNDLE);
        ssl.setEnabledProtocols(new String[] {"TLSv1.3", "TLSv1.2"});
        factory.setSsl(ssl);
        factory.setSslBundles(bundles);
        watcher = Threads.start("pages-certificate", () -> {
            look();
            return LOOK_NANOS;
        });
    }

    private static SslBundle bundle(ServerCertificate used) {
        return SslBundle.of(SslStoreBundle.of(used.store(), "", null));
    }

    private static String host() {
        try {
            return InetAddress.getLocalHost().getHostName();
        } catch (UnknownHostException unknown) {
            return "localhost";
        }
    }

    /** Takes files that were replaced. */
    void look() {
        String now = state();
        if (now.equals(seen)) {
            return;
        }
        seen = now;
        try {
            ServerCertificate next = ServerCertificate.read(settings, clock.now());
            bundles.updateBundle(BUNDLE, bundle(next));
            until = next.until();
            trouble = "";
            LOG.info("The pages have a new certificate, until {}.", until);
        } catch (CannotBeUsed problem) {
            trouble = problem.getMessage() + GO_ON;
            LOG.error(trouble);
        } catch (RuntimeException unforeseen) { // of whatever serves the pages
            trouble = "The new certificate of the pages was refused by what serves them: " + unforeseen.getMessage()
                    + "." + GO_ON;
            LOG.error(trouble, unforeseen);
        }
    }

    /** Tells whether the files are others than before. */
    private String state() {
        return stamp(settings.certificate()) + " " + stamp(settings.key());
    }

    private static String stamp(String file) {
        try {
            return file.isBlank()
                    ? ""
                    : Files.getLastModifiedTime(Path.of(file.strip())).toMillis() + ":"
                            + Files.size(Path.of(file.strip()));
        } catch (IOException gone) {
            return "gone";
        }
    }

    /** Why the certificate that is set is not used; empty where it is, or none is set. */
    public String trouble() {
        return trouble;
    }

    /** When the certificate ends that is shown; {@link Instant#MAX} where the pages are served in clear. */
    public Instant until() {
        return until;
    }

    @EventListener(ContextClosedEvent.class)
    void end() {
        if (watcher != null) {
            watcher.close();
        }
    }
}
