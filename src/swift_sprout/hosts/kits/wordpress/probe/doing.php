<?php
/**
 * What visitors and clerks do with a module's contents: look at their pages, sort and search lists, send forms.
 *
 * As all that is tried: on rows and values that are made up, with nothing that stays.
 */

namespace SwiftSprout;

final class Doing {
	/** Hooks on which code takes in forms that visitors and clerks send. */
	private const TAKES_IN = array( 'init', 'wp_loaded', 'wp', 'template_redirect', 'admin_init' );

	/** Of the hooks that are called here, those whose value the host goes on with. */
	private const FILTERS = '/_custom_column$|^handle_bulk_actions-|^enter_title_here$|^display_post_states$|^post_updated_messages$/';

	/** Make a term of each taxonomy of modules, as their forms would. */
	public static function terms( array $places ): void {
		foreach ( Watch::$made['registered_taxonomy'] ?? array() as $made ) {
			$name = $made['name'];
			if ( ! Facts::within( $made['file'], $places ) || ! taxonomy_exists( $name ) || get_terms( array( 'taxonomy' => $name, 'hide_empty' => false, 'number' => 1 ) ) ) {
				continue;
			}
			$hooks = array( "created_$name", "edited_$name", "create_$name", "edit_$name", 'created_term', 'edited_term' );
			if ( Trying::reach_others( $hooks, $places ) ) {
				continue;
			}
			Trying::with_request( Trying::callbacks( $hooks, $places ) );
			$term = null;
			Trying::acted(
				"keeping a term of $name",
				$made,
				static function () use ( $name, &$term ): void {
					$term = wp_insert_term( 'Sample', $name );
					if ( is_array( $term ) ) {
						wp_update_term( $term['term_id'], $name, array( 'name' => 'Sample 2' ) );
					}
				}
			);
			foreach ( is_array( $term ) ? get_taxonomy( $name )->object_type : array() as $type ) {
				foreach ( get_posts( array( 'post_type' => $type, 'numberposts' => 2, 'fields' => 'ids' ) ) as $post ) {
					wp_set_object_terms( $post, array( (int) $term['term_id'] ), $name );
				}
			}
		}
		self::nothing_sent();
	}

	/** What hangs on the hooks of terms' lists and forms. */
	public static function of_terms( array $places ): void {
		foreach ( Watch::$made['registered_taxonomy'] ?? array() as $made ) {
			$name = $made['name'];
			$term = taxonomy_exists( $name ) ? get_terms( array( 'taxonomy' => $name, 'hide_empty' => false, 'number' => 1 ) )[0] ?? null : null;
			if ( ! $term instanceof \WP_Term ) {
				continue;
			}
			$columns = self::filtered( "manage_edit-{$name}_columns", array( 'name' => 'Name' ) );
			self::call( "{$name}_edit_form_fields", array( array( $term, $name ) ), $places );
			self::call( "{$name}_edit_form", array( array( $term, $name ) ), $places );
			self::call( "manage_{$name}_custom_column", array_map( static fn( $column ) => array( 'sample', $column, $term->term_id ), array_keys( $columns ) ), $places );
		}
	}

	/** What hangs on the hooks of lists and forms of contents, beside what every list has. */
	public static function of_contents( array $places ): void {
		foreach ( array_unique( array( 'post', 'page', ...array_column( Watch::$made['registered_post_type'] ?? array(), 'name' ) ) ) as $type ) {
			$post = get_posts( array( 'post_type' => $type, 'numberposts' => 1, 'post_status' => 'any' ) )[0] ?? null;
			set_current_screen( "edit-$type" );
			self::call( 'restrict_manage_posts', array( array( $type, 'top' ) ), $places );
			$columns = self::filtered( "manage_{$type}_posts_columns", array( 'title' => 'Title' ) );
			foreach ( array( 'quick_edit_custom_box', 'bulk_edit_custom_box' ) as $hook ) {
				self::call( $hook, array_map( static fn( $column ) => array( $column, $type, '' ), array_keys( $columns ) ), $places );
			}
			$screen = "edit-$type";
			foreach ( array( 'sample', ...array_keys( self::filtered( "bulk_actions-$screen", array() ) ) ) as $action ) {
				self::call( "handle_bulk_actions-$screen", array( array( admin_url( "edit.php?post_type=$type" ), $action, $post ? array( $post->ID ) : array() ) ), $places );
			}
			if ( $post ) {
				self::call( 'enter_title_here', array( array( 'Title', $post ) ), $places );
				self::call( 'display_post_states', array( array( array( 'sample' => 'Sample' ), $post ) ), $places );
				foreach ( array( 'edit_form_after_title', 'edit_form_after_editor', 'post_submitbox_misc_actions' ) as $hook ) {
					self::call( $hook, array( array( $post ) ), $places );
				}
			}
		}
		self::call( 'post_updated_messages', array( array( array( 'post' => array() ) ) ), $places );
		$user = wp_get_current_user()->ID;
		foreach ( array( 'personal_options_update', 'edit_user_profile_update' ) as $hook ) {
			Trying::with_request( Trying::callbacks( array( $hook ), $places ) );
			self::call( $hook, array( array( $user ) ), $places );
		}
		self::nothing_sent();
	}

	/** Modules' screens once more, as their own links ask for them: searched, sorted, parted. */
	public static function sorted( array $places ): void {
		foreach ( Administration::menu() as $entry ) {
			if ( ! $entry['hook'] || ! Facts::within( $entry['file'], $places ) ) {
				continue;
			}
			$asked = array();
			foreach ( self::files_beside( $entry['file'] ) as $file ) {
				preg_match_all( '/\$_(?:GET|REQUEST)\s*\[\s*[\'"]([\w-]+)[\'"]/', (string) file_get_contents( $file ), $keys );
				$asked += array_fill_keys( $keys[1], 'sample' );
			}
			unset( $asked['page'], $asked['action'], $asked['action2'], $asked['_wpnonce'], $asked['order'], $asked['orderby'], $asked['paged'] );
			if ( ! $asked ) {
				continue;
			}
			$_GET = $_REQUEST = $asked + array( 'page' => $entry['slug'] );
			$GLOBALS['plugin_page'] = $entry['slug'];
			$told = array( 'file' => $entry['file'], 'line' => $entry['line'] );
			Trying::acted( "the screen {$entry['slug']}, searched", $told, static fn() => do_action( $entry['hook'] ) );
		}
		self::nothing_sent();
	}

	/** What takes in forms of modules that are sent to any page. */
	public static function sent( array $places ): void {
		add_filter( 'wp_redirect', static fn( $to ) => throw new Died( "it leads to $to", 302 ), PHP_INT_MAX );
		$hooks = array_filter( array_keys( $GLOBALS['wp_filter'] ), static fn( $hook ) => in_array( $hook, self::TAKES_IN, true ) || str_starts_with( (string) $hook, 'load-' ) );
		foreach ( $hooks as $hook ) {
			foreach ( $GLOBALS['wp_filter'][ $hook ]->callbacks as $callbacks ) {
				foreach ( $callbacks as $callback ) {
					$function = Watch::original( $callback['function'] );
					$told     = Trying::told( $function );
					if ( ! $told['callable'] || ! Facts::within( $told['file'], $places ) || ! str_contains( Trying::text_of( $told ), '$_POST' ) ) {
						continue;
					}
					Trying::with_request( array( $told ) );
					Trying::acted( "what is sent to $hook", $told, static fn() => call_user_func( $function, $GLOBALS['wp'] ) );
				}
			}
		}
		self::nothing_sent();
	}

	/** Pages and feeds of modules' contents, drawn as a visitor would see them. */
	public static function pages( array $places ): void {
		$asked = array();
		foreach ( Watch::$made['registered_post_type'] ?? array() as $made ) {
			$type = get_post_type_object( $made['name'] );
			if ( ! $type || ! $type->publicly_queryable || ! Facts::within( $made['file'], $places ) ) {
				continue;
			}
			$one     = get_posts( array( 'post_type' => $type->name, 'numberposts' => 1 ) )[0] ?? null;
			$asked[] = $one ? array( "a page of {$type->name}", array( 'p' => $one->ID, 'post_type' => $type->name ), $made ) : null;
			foreach ( $one ? $GLOBALS['wp_rewrite']->endpoints : array() as $endpoint ) {
				if ( $endpoint[0] & EP_PERMALINK ) {
					$asked[] = array( "a page of {$type->name} with {$endpoint[1]}", array( 'p' => $one->ID, 'post_type' => $type->name, $endpoint[2] => '' ), $made );
				}
			}
			$asked[] = $type->has_archive ? array( "the list of {$type->name}", array( 'post_type' => $type->name ), $made ) : null;
		}
		foreach ( Watch::$made['registered_taxonomy'] ?? array() as $made ) {
			$taxonomy = get_taxonomy( $made['name'] );
			$term     = $taxonomy && $taxonomy->publicly_queryable && $taxonomy->query_var && Facts::within( $made['file'], $places ) ? get_terms( array( 'taxonomy' => $taxonomy->name, 'hide_empty' => false, 'number' => 1 ) )[0] ?? null : null;
			$asked[]  = $term instanceof \WP_Term ? array( "a page of {$taxonomy->name}", array( $taxonomy->query_var => $term->slug ), $made ) : null;
		}
		foreach ( array_filter( $asked ) as list( $what, $query, $made ) ) {
			Trying::acted( $what, $made, static fn() => self::drawn( $query ) );
		}
		foreach ( array_keys( $GLOBALS['wp_filter'] ) as $hook ) {
			if ( str_starts_with( (string) $hook, 'do_feed_' ) ) {
				self::call( (string) $hook, array( array( false, substr( $hook, 8 ) ) ), $places );
			}
		}
	}

	/** What modules do when they are switched on, as on a site that has none of their tables yet. */
	public static function installing( array $places ): array {
		global $wpdb;
		$before = Asked::columns();
		$found  = array();
		foreach ( $places ? array_keys( $GLOBALS['wp_filter'] ) : array() as $hook ) {
			$told = str_starts_with( (string) $hook, 'activate_' ) ? Trying::callbacks( array( $hook ), $places )[0] ?? null : null;
			if ( ! $told ) {
				continue;
			}
			Guard::$anew    = array_map( static fn( $name ) => $wpdb->prefix . $name, array_keys( $before ) );
			Guard::$created = array();
			Trying::acted( 'activating ' . substr( $hook, 9 ), $told, static fn() => do_action( $hook, false ) );
			Guard::$anew = null;
			foreach ( Guard::$created as $name => $place ) {
				$short = substr( $name, strlen( $wpdb->prefix ) );
				$made  = isset( $before[ $short ] ) ? $wpdb->get_col( "SHOW COLUMNS FROM `$name`" ) : array();
				if ( $made ) {
					$found[] = array( 'table' => $name, 'file' => $place[0], 'line' => $place[1], 'lacks' => array_values( array_diff( $before[ $short ], $made ) ) );
				}
			}
		}
		return $found;
	}

	/** What a module takes away when it is taken away; last of all, for it may end the run. */
	public static function uninstalling( array $places ): void {
		foreach ( $places as $place ) {
			$file = "$place/uninstall.php";
			if ( is_file( $file ) ) {
				defined( 'WP_UNINSTALL_PLUGIN' ) || define( 'WP_UNINSTALL_PLUGIN', basename( $place ) . '/uninstall.php' );
				Trying::acted( 'uninstalling ' . basename( $place ), array( 'file' => $file, 'line' => 1 ), static fn() => include $file );
			}
		}
	}

	/** The host's main query, and the template that it leads to. */
	private static function drawn( array $query ): void {
		global $wp, $wp_query, $wp_the_query, $post;
		$before = array( $wp_query, $wp_the_query, $post );
		$wp_query = $wp_the_query = new \WP_Query();
		$wp->query_vars = $query;
		$wp->query_string = http_build_query( $query );
		try {
			$wp->query_posts();
			$wp->register_globals();
			do_action( 'template_redirect' );
			$template = '';
			foreach ( array( 'is_tax' => 'taxonomy', 'is_singular' => 'single', 'is_post_type_archive' => 'archive' ) as $is => $sort ) {
				$template = $template ?: ( $is() ? call_user_func( 'is_tax' === $is ? 'get_taxonomy_template' : ( 'is_singular' === $is ? 'get_single_template' : 'get_post_type_archive_template' ) ) : '' );
			}
			$template = apply_filters( 'template_include', $template ?: get_index_template() );
			if ( is_string( $template ) && Guard::in_module( $template ) && ! is_file( $template ) ) {
				throw new \Error( 'the template ' . substr( $template, strlen( ABSPATH ) ) . ' does not exist' );
			}
			if ( is_string( $template ) && Guard::in_module( $template ) && is_file( $template ) && ! str_starts_with( $template, get_theme_root() ) ) {
				include $template; // a theme's own is asked for by its pages
			} elseif ( have_posts() ) {
				the_post();
				ob_start();
				the_content();
				ob_end_clean();
			}
		} finally {
			list( $wp_query, $wp_the_query, $post ) = $before;
		}
	}

	/** Call what modules hung on a hook, once for each list of arguments. */
	private static function call( string $hook, array $calls, array $places ): void {
		$does  = preg_match( self::FILTERS, $hook ) ? 'apply_filters_ref_array' : 'do_action_ref_array';
		$first = Trying::callbacks( array( $hook ), $places )[0] ?? null;
		foreach ( $first ? $calls : array() as $given ) {
			$what = 1 < count( $calls ) ? $hook . ' (' . implode( ', ', array_filter( $given, 'is_string' ) ) . ')' : $hook;
			Trying::acted( $what, $first, static fn() => $does( $hook, $given ) );
		}
	}

	/** What modules make of a list; the list itself where they break, which is told where the list is asked for. */
	private static function filtered( string $hook, array $list ): array {
		try {
			return (array) apply_filters( $hook, $list );
		} catch ( \Throwable ) {
			return $list;
		}
	}

	/** The files of PHP in a file's folder. */
	private static function files_beside( string $file ): array {
		return array_slice( (array) glob( dirname( $file ) . '/*.php' ), 0, 60 );
	}

	private static function nothing_sent(): void {
		$_GET = $_POST = $_REQUEST = array();
	}
}
