package dachshund.web.people;

import dachshund.core.time.PlantClock;
import dachshund.office.audit.Audit;
import jakarta.servlet.FilterChain;
import jakarta.servlet.ServletException;
import jakarta.servlet.http.HttpServletRequest;
import jakarta.servlet.http.HttpServletResponse;
import jakarta.servlet.http.HttpSession;
import java.io.IOException;
import java.net.URLEncoder;
import java.nio.charset.StandardCharsets;
import org.springframework.beans.factory.annotation.Value;
import org.springframework.context.annotation.Bean;
import org.springframework.context.annotation.Configuration;
import org.springframework.dao.DataAccessException;
import org.springframework.security.authentication.AnonymousAuthenticationToken;
import org.springframework.security.authentication.AuthenticationServiceException;
import org.springframework.security.config.annotation.web.builders.HttpSecurity;
import org.springframework.security.config.annotation.web.configurers.RequestCacheConfigurer;
import org.springframework.security.core.Authentication;
import org.springframework.security.core.context.SecurityContextHolder;
import org.springframework.security.core.session.SessionRegistry;
import org.springframework.security.core.session.SessionRegistryImpl;
import org.springframework.security.core.userdetails.UserDetailsService;
import org.springframework.security.core.userdetails.UsernameNotFoundException;
import org.springframework.security.crypto.bcrypt.BCryptPasswordEncoder;
import org.springframework.security.crypto.password.PasswordEncoder;
import org.springframework.security.web.SecurityFilterChain;
import org.springframework.security.web.access.AccessDeniedHandler;
import org.springframework.security.web.access.AccessDeniedHandlerImpl;
import org.springframework.security.web.access.intercept.AuthorizationFilter;
import org.springframework.security.web.csrf.CookieCsrfTokenRepository;
import org.springframework.security.web.csrf.CsrfException;
import org.springframework.security.web.header.writers.ReferrerPolicyHeaderWriter.ReferrerPolicy;
import org.springframework.security.web.session.HttpSessionEventPublisher;
import org.springframework.web.filter.OncePerRequestFilter;

/** Who is signed in, and for how long. Which right each address needs is held at the methods, see {@link RightsHeld}. */
@Configuration
class Security {

    private static final String CONTENT_POLICY =
            "default-src 'none'; script-src 'self'; style-src 'self'; img-src 'self' data:; "
                    + "font-src 'self'; connect-src 'self'; form-action 'self'; base-uri 'none'; frame-ancestors 'none'";

    @Bean
    PasswordEncoder passwordEncoder(@Value("${dachshund.people.password-rounds}") int rounds) {
        return new BCryptPasswordEncoder(rounds);
    }

    @Bean
    UserDetailsService users(People people, SignInThrottle throttle) {
        return name -> {
            try {
                return new SignedIn(
                        people.find(name.strip()).orElseThrow(() -> new UsernameNotFoundException(name)),
                        throttle.closed(name));
            } catch (DataAccessException away) {
                throw new AuthenticationServiceException("our own database is away", away);
            }
        };
    }

    @Bean
    SessionRegistry sessionRegistry() {
        return new SessionRegistryImpl();
    }

    /** Tells the registry of sessions that ended. */
    @Bean
    HttpSessionEventPublisher sessionEnds() {
        return new HttpSessionEventPublisher();
    }

    @Bean
    SecurityFilterChain chain(
            HttpSecurity http,
            SignInThrottle throttle,
            Audit audit,
            PlantClock clock,
            SessionRegistry registry,
            Sessions sessions)
            throws Exception {
        CookieCsrfTokenRepository token = new CookieCsrfTokenRepository();
        token.setCookieCustomizer(cookie -> cookie.sameSite("Strict"));
        return http.authorizeHttpRequests(requests -> requests.requestMatchers(
                                "/sign-in",
                                "/invitation",
                                "/denied",
                                "/error",
                                "/css/**",
                                "/js/**",
                                "/fonts/**",
                                "/webjars/**",
                                "/mark.svg")
                        .permitAll()
                        .anyRequest()
                        .authenticated()) // and which right it needs is said at each method: Needs
                // Who has not signed in has no session: the token of forms is in a cookie of its own.
                .csrf(csrf -> csrf.csrfTokenRepository(token))
                .requestCache(RequestCacheConfigurer::disable)
                .sessionManagement(management -> management
                        .maximumSessions(-1)
                        .sessionRegistry(registry)
                        .expiredSessionStrategy(ended -> toSignIn(
                                ended.getRequest(),
                                ended.getResponse(),
                                "?" + sessions.why(ended.getSessionInformation().getSessionId()))))
                .formLogin(form -> form.loginPage("/sign-in")
                        .permitAll()
                        .successHandler((request, response, who) -> {
                            throttle.succeeded(who.getName());
                            if (who.getPrincipal() instanceof SignedIn signedIn) {
                                signedIn.came(request.getRemoteAddr(), clock.now());
                            }
                            audit.note(who.getName(), "signed in", "from " + request.getRemoteAddr());
                            response.sendRedirect(ownPath(request.getParameter("to")));
                        })
                        .failureHandler((request, response, problem) -> {
                            String name = String.valueOf(request.getParameter("username"));
                            String why = "wrong";
                            if (throttle.closed(name)) {
                                why = "closed";
                                audit.noteOnce(
                                        name, "tried to sign in while closed", "from " + request.getRemoteAddr());
                            } else if (problem instanceof AuthenticationServiceException) {
                                why = "away";
                            } else {
                                throttle.failed(name);
                                audit.noteTried(name, "failed to sign in", "from " + request.getRemoteAddr());
                            }
                            response.sendRedirect("/sign-in?" + why);
                        }))
                .logout(out -> out.logoutUrl("/sign-out").logoutSuccessUrl("/sign-in?out"))
                .headers(headers -> headers.contentSecurityPolicy(policy -> policy.policyDirectives(CONTENT_POLICY))
                        .httpStrictTransportSecurity(strict -> strict.includeSubDomains(false))
                        .referrerPolicy(policy -> policy.policy(ReferrerPolicy.SAME_ORIGIN)))
                .exceptionHandling(problems -> problems.accessDeniedHandler(denied(audit))
                        .authenticationEntryPoint((request, response, problem) -> toSignIn(
                                request,
                                response,
                                request.getRequestedSessionId() == null
                                        ? ""
                                        : "?" + sessions.why(request.getRequestedSessionId()))))
                .addFilterBefore(new LongestSessionFilter(clock), AuthorizationFilter.class)
                .addFilterAfter(new OneTimePasswordFilter(), AuthorizationFilter.class)
                .build();
    }

    /** What is refused is said, and stands in the audit: a right that lacks, or a change that came from no page of ours. */
    private static AccessDeniedHandler denied(Audit audit) {
        AccessDeniedHandlerImpl page = new AccessDeniedHandlerImpl();
        page.setErrorPage("/denied");
        return (request, response, problem) -> {
            Authentication signedIn = SecurityContextHolder.getContext().getAuthentication();
            boolean nobody = signedIn == null || signedIn instanceof AnonymousAuthenticationToken;
            String who = nobody ? "nobody" : signedIn.getName();
            audit.noteOnce(
                    who,
                    "was refused",
                    // Whoever has not signed in fills no table by asking for one address after the other.
                    (nobody ? "a change" : request.getMethod() + " " + request.getServletPath()) + " from "
                            + request.getRemoteAddr()
                            + (problem instanceof CsrfException ? ", without the token of an own page" : ""));
            page.handle(request, response, problem);
        };
    }

    /** A part of a page that is being refreshed takes the whole page to the sign-in. Addresses are ours alone, never of a header. */
    private static void toSignIn(HttpServletRequest request, HttpServletResponse response, String why)
            throws IOException {
        if (request.getHeader("HX-Request") != null) {
            response.setHeader("HX-Redirect", "/sign-in" + why);
            response.setStatus(HttpServletResponse.SC_UNAUTHORIZED);
            return;
        }
        String query = request.getQueryString() == null ? "" : "?" + request.getQueryString();
        String to =
                request.getMethod().equals("GET") && !request.getServletPath().equals("/")
                        ? (why.isEmpty() ? "?" : "&") + "to="
                                + URLEncoder.encode(request.getServletPath() + query, StandardCharsets.UTF_8)
                        : "";
        response.sendRedirect("/sign-in" + why + to);
    }

    /** Where to go after the sign-in: a page of ours, whatever the form says. */
    static String ownPath(String wanted) {
        return wanted != null && wanted.matches("/(?![/\\\\])[\\x21-\\x7e]*") && !wanted.contains("\\") ? wanted : "/";
    }

    /** A session ends so long after its sign-in, however busy it is. */
    private static final class LongestSessionFilter extends OncePerRequestFilter {

        private final PlantClock clock;

        private LongestSessionFilter(PlantClock clock) {
            this.clock = clock;
        }

        @Override
        protected void doFilterInternal(HttpServletRequest request, HttpServletResponse response, FilterChain chain)
                throws ServletException, IOException {
            HttpSession session = request.getSession(false);
            Authentication who = SecurityContextHolder.getContext().getAuthentication();
            if (session != null
                    && who != null
                    && who.getPrincipal() instanceof SignedIn signedIn
                    && clock.now().isAfter(signedIn.since().plus(Sessions.LONGEST))) {
                session.invalidate();
                SecurityContextHolder.clearContext();
                toSignIn(request, response, "?ended");
                return;
            }
            chain.doFilter(request, response);
        }
    }

    /** Somebody with a one-time password gets to no page but the one that changes it. */
    private static final class OneTimePasswordFilter extends OncePerRequestFilter {

        @Override
        protected void doFilterInternal(HttpServletRequest request, HttpServletResponse response, FilterChain chain)
                throws ServletException, IOException {
            Authentication who = SecurityContextHolder.getContext().getAuthentication();
            String path = request.getServletPath();
            boolean page = !path.matches("/(css|js|fonts|webjars)/.*|/password|/sign-out|/pulse|/mark.svg|/error");
            if (page && who != null && who.getPrincipal() instanceof SignedIn signedIn && signedIn.mustChange()) {
                response.sendRedirect("/password");
                return;
            }
            chain.doFilter(request, response);
        }
    }
}
