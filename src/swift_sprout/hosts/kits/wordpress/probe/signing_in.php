<?php
/** The host's own function of this name looks for a cookie; a person of a check has none. */

function auth_redirect() {
	if ( ! is_user_logged_in() ) {
		wp_safe_redirect( wp_login_url() );
		exit;
	}
}
