</main>
<aside><?php dynamic_sidebar( 'beside' ); ?></aside>
</div>
<footer><?php dynamic_sidebar( 'below' ); ?></footer>
<?php wp_footer(); ?>
</body>
</html>
