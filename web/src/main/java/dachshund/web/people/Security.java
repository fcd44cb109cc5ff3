package dachshund.web.people;

import dachshund.web.audit.Audit;
import jakarta.servlet.FilterChain;
import jakarta.servlet.ServletException;
import jakarta.servlet.http.HttpServletRequest;
import jakarta.servlet.http.HttpServletResponse;
import java.io.IOException;
import org.springframework.context.annotation.Bean;
import org.springframework.context.annotation.Configuration;
import org.springframework.dao.DataAccessException;
import org.springframework.http.HttpMethod;
import org.springframework.security.authentication.AuthenticationServiceException;
import org.springframework.security.config.annotation.web.builders.HttpSecurity;
import org.springframework.security.core.Authentication;
import org.springframework.security.core.context.SecurityContextHolder;
import org.springframework.security.core.userdetails.UserDetailsService;
import org.springframework.security.core.userdetails.UsernameNotFoundException;
import org.springframework.security.crypto.bcrypt.BCryptPasswordEncoder;
import org.springframework.security.crypto.password.PasswordEncoder;
import org.springframework.security.web.SecurityFilterChain;
import org.springframework.security.web.access.intercept.AuthorizationFilter;
import org.springframework.security.web.authentication.LoginUrlAuthenticationEntryPoint;
import org.springframework.security.web.header.writers.ReferrerPolicyHeaderWriter.ReferrerPolicy;
import org.springframework.web.filter.OncePerRequestFilter;

/** Who may do what, held at the server: everyone signed in may look, engineers may change, administrators manage people. */
@Configuration
class Security {

    private static final String CONTENT_POLICY =
            "default-src 'none'; script-src 'self'; style-src 'self'; img-src 'self' data:; "
                    + "font-src 'self'; connect-src 'self'; form-action 'self'; base-uri 'none'; frame-ancestors 'none'";

    @Bean
    PasswordEncoder passwordEncoder() {
        return new BCryptPasswordEncoder(11);
    }

    @Bean
    UserDetailsService users(People people, SignInThrottle throttle) {
        return name -> {
            try {
                return new SignedIn(
                        people.find(name).orElseThrow(() -> new UsernameNotFoundException(name)),
                        throttle.closed(name));
            } catch (DataAccessException away) {
                throw new AuthenticationServiceException("our own database is away", away);
            }
        };
    }

    @Bean
    SecurityFilterChain chain(HttpSecurity http, SignInThrottle throttle, Audit audit) throws Exception {
        return http.authorizeHttpRequests(requests -> requests.requestMatchers(
                                "/sign-in",
                                "/denied",
                                "/error",
                                "/css/**",
                                "/js/**",
                                "/fonts/**",
                                "/webjars/**",
                                "/mark.svg")
                        .permitAll()
                        .requestMatchers("/people/**", "/plant/tokens/**")
                        .hasRole("ADMINISTRATOR")
                        .requestMatchers(HttpMethod.POST, "/plant/certificates/**")
                        .hasRole("ADMINISTRATOR")
                        .requestMatchers("/password", "/sign-out")
                        .authenticated()
                        .requestMatchers("/plant/formulas/new", "/plant/kept/new", "/plant/equipment/from-tags")
                        .hasRole("ENGINEER") // they draft what is missing
                        .requestMatchers(HttpMethod.GET)
                        .hasRole("VIEWER")
                        .anyRequest()
                        .hasRole("ENGINEER"))
                .formLogin(form -> form.loginPage("/sign-in")
                        .permitAll()
                        .successHandler((request, response, who) -> {
                            throttle.succeeded(who.getName());
                            audit.note(who.getName(), "signed in", "from " + request.getRemoteAddr());
                            new org.springframework.security.web.authentication
                                            .SavedRequestAwareAuthenticationSuccessHandler()
                                    .onAuthenticationSuccess(request, response, who);
                        })
                        .failureHandler((request, response, problem) -> {
                            String name = String.valueOf(request.getParameter("username"));
                            String why = "wrong";
                            if (throttle.closed(name)) {
                                why = "closed";
                            } else if (problem instanceof AuthenticationServiceException) {
                                why = "away";
                            } else {
                                throttle.failed(name);
                                audit.note(
                                        name.substring(0, Math.min(60, name.length())),
                                        "failed to sign in",
                                        "from " + request.getRemoteAddr());
                            }
                            response.sendRedirect("/sign-in?" + why);
                        }))
                .logout(out -> out.logoutUrl("/sign-out").logoutSuccessUrl("/sign-in?out"))
                .headers(headers -> headers.contentSecurityPolicy(policy -> policy.policyDirectives(CONTENT_POLICY))
                        .referrerPolicy(policy -> policy.policy(ReferrerPolicy.SAME_ORIGIN)))
                .exceptionHandling(problems -> problems.accessDeniedPage("/denied")
                        .authenticationEntryPoint((request, response, problem) -> {
                            if (request.getHeader("HX-Request") == null) {
                                new LoginUrlAuthenticationEntryPoint("/sign-in").commence(request, response, problem);
                            } else { // a part of a page is being refreshed: the whole page goes to the sign-in
                                response.setHeader("HX-Redirect", "/sign-in");
                                response.setStatus(HttpServletResponse.SC_UNAUTHORIZED);
                            }
                        }))
                .addFilterAfter(new OneTimePasswordFilter(), AuthorizationFilter.class)
                .build();
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
