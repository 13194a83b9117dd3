"""What a screen draws or says, computed: view models and words, no rule of the job."""
